import { heldByCopyOf } from '@lumbrin/core/categories/encrypted'
import { openSource } from '@lumbrin/core/collected/open'
import { makeCopy } from '@lumbrin/core/copies/make'
import { parseOptions, passwordOf, requireSource, UsageError } from '../options.js'
import { warnOnStderr, withOutput } from '../output.js'

/** `lumbrin copy`: keeps the state of a device that a source shows, and prints what was new in it. */
export async function copyCommand(words: string[]): Promise<void> {
  const options = parseOptions(words, ['password-file', 'to', 'thorough'])
  const source = requireSource(options)
  const { to, thorough } = options
  if (!to) throw new UsageError('Say where the copy goes: --to PLACE.')
  const report = warnOnStderr()
  const tree = await openSource(source, report, { password: await passwordOf(options) })
  try {
    const { copy, ...outcome } = await makeCopy(tree, to, { report, thorough, only: heldByCopyOf(tree.info) })
    const { folder, deviceName, takenAt, files, bytes, missing } = copy
    await withOutput(undefined, (lines) =>
      lines.write({ folder, deviceName, takenAt, files, bytes, missing, ...outcome }),
    )
  } finally {
    await tree.close()
  }
}
