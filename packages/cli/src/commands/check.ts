import { CopyChecker } from '@lumbrin/core/copies/check'
import { copiesIn, isCopy } from '@lumbrin/core/copies/place'
import { parseOptions, requireOne } from '../options.js'
import { withOutput } from '../output.js'

/** `lumbrin check`: reads one copy, or all of a place, against their sums. @throws where something is not what it was */
export async function checkCommand(words: string[]): Promise<void> {
  const folder = requireOne(parseOptions(words, []), 'PLACE or COPY')
  const { copies, damaged } = (await isCopy(folder)) ? { copies: [{ folder }], damaged: [] } : await copiesIn(folder)
  const checker = new CopyChecker()
  let wrong = 0
  await withOutput(undefined, async (lines) => {
    for (const copy of [...copies, ...damaged]) {
      const result = await checker.check(copy.folder)
      wrong += result.problems.length > 0 ? 1 : 0
      await lines.write(result)
    }
  })
  if (wrong > 0) throw new Error(`${wrong} of ${copies.length + damaged.length} copies are not what they were.`)
}
