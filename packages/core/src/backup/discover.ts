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

/** A step of a search: the folder that it looks into now, and how many it has seen; or a backup. */
export type SearchStep = { folder: string; seen: number } | { backup: FoundBackup }

/** Finds backups in the folders and up to four levels below them. Folders that cannot be listed are passed over. */
export async function* searchBackups(folders: string[], signal?: AbortSignal): AsyncGenerator<SearchStep> {
  const seen = new Set<string>()
  let level = folders.map((folder) => resolve(folder))
  for (let depth = 0; depth <= MAX_DEPTH; depth++) {
    const below: string[] = []
    for (const folder of level) {
      if (signal?.aborted) return
      if (seen.has(folder)) continue
      seen.add(folder)
      yield { folder, seen: seen.size }
      if (await layoutOf(folder)) {
        const info = await readBackupInfo(folder, () => {})
        yield { backup: { ...info, ...(await sizeOnDisk(folder)) } }
      } else if (depth < MAX_DEPTH) for (const name of await subfolders(folder)) below.push(join(folder, name))
    }
    level = below
  }
}

/** The backups alone. */
export async function* findBackups(folders: string[]): AsyncGenerator<FoundBackup> {
  for await (const step of searchBackups(folders)) if ('backup' in step) yield step.backup
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
