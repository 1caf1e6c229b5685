import { spawn } from 'node:child_process'
import { readdir, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { Db } from '../database/connection.js'
import { AppError } from '../domain/errors.js'
import type { FolderList } from '../domain/handover.js'
import { loadSettings, requireAllowedFolder } from './settings.js'
import { freeSpace } from './space.js'

const MOST_FOLDERS = 500

/** The folders inside of one below the allowed roots; without a path, the roots. @throws AppError */
export async function listFolders(db: Db, path: string | null): Promise<FolderList> {
  if (path === null) {
    const { allowedRoots } = await loadSettings(db)
    const folders = allowedRoots.map((root) => ({ name: root, path: root, isHandover: false }))
    return { path, parent: null, folders, more: false, freeBytes: 0 }
  }
  const folder = await requireAllowedFolder(db, path)
  const entries = await readdir(folder, { withFileTypes: true }).catch((thrown: NodeJS.ErrnoException) => {
    throw new AppError('unusable', `"${folder}" cannot be read (${thrown.code}). Choose another folder.`)
  })
  const names = entries
    .filter((entry) => entry.isDirectory() && !entry.name.startsWith('.'))
    .map((entry) => entry.name)
    .sort((a, b) => a.localeCompare(b))
  const folders = await Promise.all(
    names.slice(0, MOST_FOLDERS).map(async (name) => {
      const inside = join(folder, name)
      const bag = await stat(join(inside, 'bagit.txt')).catch(() => undefined)
      return { name, path: inside, isHandover: bag !== undefined }
    }),
  )
  const parent = await requireAllowedFolder(db, dirname(folder)).catch(() => null)
  return { path: folder, parent, folders, more: names.length > MOST_FOLDERS, freeBytes: await freeSpace(folder) }
}

const OPENERS: Partial<Record<NodeJS.Platform, string>> = { darwin: 'open', win32: 'explorer', linux: 'xdg-open' }

/** Shows a folder in the file manager of this computer, on which the server runs. @throws AppError where it cannot */
export async function openFolder(path: string): Promise<void> {
  const found = await stat(path).catch(() => undefined)
  if (!found?.isDirectory()) throw new AppError('not-found', `There is no folder "${path}" any more.`)
  const opener = OPENERS[process.platform]
  if (!opener) throw new AppError('unusable', 'Folders cannot be opened from here on this system.')
  await new Promise<void>((resolve, reject) => {
    const child = spawn(opener, [path], { detached: true, stdio: 'ignore' })
    child.once('error', () =>
      reject(new AppError('unusable', `No file manager could be started here. The folder is ${path}`)),
    )
    child.once('spawn', () => {
      child.unref()
      resolve()
    })
  })
}
