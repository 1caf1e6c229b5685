import { findBackups, usualFolders } from '@lumbrin/core/backup/discover'
import { parseOptions } from '../options.js'
import { withOutput } from '../output.js'

/** `lumbrin sources`: the backups under the folders, a line each. */
export async function sourcesCommand(words: string[]): Promise<void> {
  const { positionals } = parseOptions(words, [])
  await withOutput(undefined, async (lines) => {
    for await (const found of findBackups(positionals.length > 0 ? positionals : usualFolders())) {
      const { path, kind, layout, deviceName, productType, osVersion, uniqueId, takenAt, encrypted, bytes, files } =
        found
      await lines.write({
        path,
        kind,
        layout,
        deviceName,
        productType,
        osVersion,
        uniqueId,
        takenAt,
        encrypted,
        bytes,
        files,
      })
    }
  })
}
