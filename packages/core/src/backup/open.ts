import { join } from 'node:path'
import { FormatError, messageOf, type Report, SourceError } from '../io/errors.js'
import { FileSource } from '../io/file.js'
import type { ByteSource } from '../io/source.js'
import { readBackupInfo } from './info.js'
import { readManifest } from './manifest.js'
import type { SourceEntry, SourceInfo, SourceTree } from './types.js'

/**
 * Opens a computer backup as a tree of files. What is damaged is reported; the rest can be read.
 * @throws SourceError when nothing of it can be read
 */
export async function openBackup(folder: string, report: Report): Promise<SourceTree> {
  const info = await readBackupInfo(folder, report)
  if (info.encrypted)
    throw new SourceError(
      'password-needed',
      `"${folder}" is encrypted. Encrypted backups cannot be opened yet; nothing was changed.`,
    )
  if (info.layout === 'legacy')
    throw new SourceError(
      'not-readable',
      `"${folder}" is in the old layout, which cannot be opened yet; nothing was changed.`,
    )
  if (!info.complete)
    report({ code: 'backup-unfinished', message: 'The last backup run was interrupted: some content may be missing.' })
  return new BackupTree(info, await readEntries(folder, report))
}

async function readEntries(folder: string, report: Report): Promise<SourceEntry[]> {
  const manifest = await FileSource.open(join(folder, 'Manifest.db'))
  try {
    return await readManifest(manifest, report)
  } catch (thrown) {
    if (!(thrown instanceof FormatError)) throw thrown
    throw new SourceError(
      'not-readable',
      `The manifest of "${folder}" cannot be read: ${messageOf(thrown)}. Try another copy of the backup.`,
      { cause: thrown },
    )
  } finally {
    await manifest.close()
  }
}

class BackupTree implements SourceTree {
  readonly #byPlace = new Map<string, SourceEntry>()

  constructor(
    readonly info: SourceInfo,
    readonly list: SourceEntry[],
  ) {
    for (const entry of list) this.#byPlace.set(placeKey(entry.domain, entry.path), entry)
  }

  get fileCount() {
    return this.list.length
  }

  find(domain: string, path: string) {
    return this.#byPlace.get(placeKey(domain, path))
  }

  entries() {
    return this.list
  }

  // The id was checked to be 40 hex digits, so the joined path stays in the backup.
  async open(entry: SourceEntry): Promise<ByteSource | undefined> {
    try {
      return await FileSource.open(join(this.info.path, entry.id.slice(0, 2), entry.id))
    } catch (thrown) {
      if ((thrown as NodeJS.ErrnoException).code === 'ENOENT') return undefined
      throw thrown
    }
  }

  async close() {}
}

// A NUL cannot stand in either part, so two places never share a key.
const placeKey = (domain: string, path: string) => `${domain}\0${path}`
