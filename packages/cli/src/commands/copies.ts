import { withChanges } from '@lumbrin/core/copies/compare'
import { copiesIn } from '@lumbrin/core/copies/place'
import { parseOptions, requireOne } from '../options.js'
import { warnOnStderr, withOutput } from '../output.js'

/** `lumbrin copies`: the copies in a place, a line each, with what each changed. */
export async function copiesCommand(words: string[]): Promise<void> {
  const { copies, damaged } = await copiesIn(requireOne(parseOptions(words, []), 'PLACE'))
  const report = warnOnStderr()
  for (const { folder, why } of damaged) report({ code: 'listing-damaged', message: why, path: folder })
  await withOutput(undefined, async (lines) => {
    for (const copy of await withChanges(copies)) {
      const { folder, deviceName, uniqueId, takenAt, madeAt, files, bytes, missing } = copy
      const { added, changed, gone, bytesAlone } = copy
      await lines.write({
        ...{ folder, deviceName, uniqueId, takenAt, madeAt, files, bytes, missing },
        ...{ added, changed, gone, bytesAlone },
      })
    }
  })
}
