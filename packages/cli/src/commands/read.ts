import { planRead, readStep, withHashes } from '@lumbrin/core/categories/read'
import { USUAL_CATEGORIES } from '@lumbrin/core/categories/registry'
import type { Sighting } from '@lumbrin/core/categories/types'
import { openSource } from '@lumbrin/core/collected/open'
import { parseOptions, passwordOf, requireSource } from '../options.js'
import { warnOnStderr, withOutput } from '../output.js'

/** `lumbrin read`: every sighting of a source, a line each. */
export async function readCommand(words: string[]): Promise<void> {
  const options = parseOptions(words, ['password-file', 'only', 'passes', 'out'])
  const report = warnOnStderr()
  const tree = await openSource(requireSource(options), report, { password: await passwordOf(options) })
  try {
    await withOutput(options.out, async (lines) => {
      for (const step of planRead(options.only ?? USUAL_CATEGORIES, options.passes))
        for await (const sighting of readStep(tree, step, report))
          await lines.write(printed(await withHashes(tree, sighting, report)))
    })
  } finally {
    await tree.close()
  }
}

/** The line's documented shape: where the content lies is said by `origin` and `fields`. */
function printed(sighting: Sighting): object {
  const { content } = sighting
  return {
    ...sighting,
    content: content && { name: content.name, bytes: content.bytes, mime: content.mime, sha256: content.sha256 },
  }
}
