import { readdir, stat } from 'node:fs/promises'
import { homedir } from 'node:os'
import { join, resolve } from 'node:path'
import { layoutOf, readBackupInfo } from './info.js'
import type { SourceInfo } from './types.js'

/** A backup that was found, with its size on disk. */
export interface FoundBackup extends SourceInfo {
  /** Bytes of content on disk. */
  bytes: number
  /** Content files on disk. */
  files: number
}

const MAX_DEPTH = 4

/** The folders in which desktop systems keep backups (from memory; reference 1.1). */
export function usualFolders(home = homedir(), environment = process.env): string[] {
  const folders = [join(home, 'Library/Application Support/MobileSync/Backup'), join(home, 'Apple/MobileSync/Backup')]
  if (environment.APPDATA) folders.push(join(environment.APPDATA, 'Apple Computer/MobileSync/Backup'))
  return folders
}

/** Finds backups in the folders and up to four levels below them. Folders that cannot be listed are passed over. */
export async function* findBackups(folders: string[], signal?: AbortSignal): AsyncGenerator<FoundBackup> {
  const seen = new Set<string>()
  const queue = folders.map((folder) => ({ folder: resolve(folder), depth: 0 }))
  for (let next = queue.shift(); next && !signal?.aborted; next = queue.shift()) {
    if (seen.has(next.folder)) continue
    seen.add(next.folder)
    if (await layoutOf(next.folder)) {
      const info = await readBackupInfo(next.folder, () => {})
      yield { ...info, ...(await sizeOnDisk(next.folder)) }
    } else if (next.depth < MAX_DEPTH) {
      for (const name of await subfolders(next.folder))
        queue.push({ folder: join(next.folder, name), depth: next.depth + 1 })
    }
  }
}

const subfolders = (folder: string): Promise<string[]> =>
  readdir(folder, { withFileTypes: true }).then(
    (found) =>
      found
        .filter((entry) => entry.isDirectory())
        .map((entry) => entry.name)
        .sort(),
    () => [],
  )

/** Bytes and count of the content files of a backup folder. */
export async function sizeOnDisk(folder: string): Promise<{ bytes: number; files: number }> {
  let bytes = 0
  let files = 0
  const shelves = (await subfolders(folder)).filter((name) => /^[0-9a-f]{2}$/.test(name))
  for (const shelf of ['', ...shelves]) {
    const names = await readdir(join(folder, shelf)).catch(() => [])
    const contents = names.filter((name) => /^[0-9a-f]{40}$/.test(name))
    const sizes = await Promise.all(
      contents.map((name) =>
        stat(join(folder, shelf, name)).then(
          (found) => found.size,
          () => 0,
        ),
      ),
    )
    files += contents.length
    for (const size of sizes) bytes += size
  }
  return { bytes, files }
}
