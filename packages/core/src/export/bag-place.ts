import { constants } from 'node:fs'
import { access, type FileHandle, lstat, mkdir, open, realpath, statfs } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { messageOf } from '../io/errors.js'
import { DestinationError } from './bag-types.js'

/** What is handed over is an owner's: of this computer's users only the one who writes it may look into it. */
const PRIVATE_FOLDER = 0o700
const PRIVATE_FILE = 0o600

/** Makes a folder for this user alone, with those above it. */
export async function makeFolder(path: string): Promise<void> {
  await mkdir(path, { recursive: true, mode: PRIVATE_FOLDER })
}

/** Makes a folder below another one, step by step, so that no link on the way is followed. @throws DestinationError at one */
export async function makeFolderBelow(root: string, path: string): Promise<void> {
  await requireRealFolder(root)
  let at = root
  for (const name of path.split('/')) {
    at = join(at, name)
    await mkdir(at, PRIVATE_FOLDER).catch((thrown: NodeJS.ErrnoException) => {
      if (thrown.code !== 'EEXIST') throw thrown
    })
    if (!(await lstat(at)).isDirectory()) throw exchanged(at)
  }
}

/**
 * Opens a file below a folder for writing, empty, with the folders on its way. `root` is a real path: should somebody put a
 * link in the place of the folder, of one on the way or of the file, nothing is written through it, nor emptied.
 * @throws DestinationError where there is one
 */
export async function openBelow(root: string, path: string): Promise<FileHandle> {
  const full = join(root, path)
  await makeFolderBelow(root, dirname(path))
  const handle = await open(full, constants.O_WRONLY | constants.O_CREAT | constants.O_NOFOLLOW, PRIVATE_FILE).catch(
    (thrown: NodeJS.ErrnoException) => {
      throw thrown.code === 'ELOOP' ? exchanged(full) : thrown
    },
  )
  try {
    await requireItself(handle, full)
    await handle.truncate()
    return handle
  } catch (thrown) {
    await handle.close()
    throw thrown
  }
}

/** @throws DestinationError unless an open file is the one at its path, under no other name */
async function requireItself(handle: FileHandle, full: string): Promise<void> {
  const opened = await handle.stat()
  const found = await lstat(full)
  const same = opened.isFile() && opened.nlink === 1 && found.ino === opened.ino && found.dev === opened.dev
  if (!same || (await realpath(full)) !== full) throw exchanged(full)
}

/** @throws DestinationError unless a folder lies where its path says, with no link on the way */
export async function requireRealFolder(path: string): Promise<void> {
  const found = await realpath(path).catch((thrown: NodeJS.ErrnoException) => {
    throw thrown.code === 'ENOENT'
      ? new DestinationError(`"${path}" was taken away while the package was written. Write it again, or elsewhere.`)
      : thrown
  })
  if (found !== path) throw exchanged(path)
}

const exchanged = (path: string) =>
  new DestinationError(
    `A link was put in the place of "${path}" while the package was written. Nothing was written through it; choose a folder that nobody else can change.`,
  )

const WHY: Record<string, string> = {
  EROFS: 'the disk can be read only',
  EACCES: 'this user may not write there',
  EPERM: 'this user may not write there',
  ENOSPC: 'the disk is full',
  EDQUOT: 'this user has no more room there',
  ENOTDIR: 'a file stands in the place of a folder on the way',
  ENAMETOOLONG: 'the path is too long for the disk',
  EFBIG: 'a file is longer than the disk can hold (FAT holds 4 GB in one)',
}

/** Why nothing can be written below a folder, in words. */
export async function whyNotWritten(folder: string, thrown: unknown): Promise<string> {
  const { code = '' } = thrown as NodeJS.ErrnoException
  // Of a folder that cannot be made, systems say that it is not there.
  const refused = code === 'ENOENT' ? await access(await nearest(folder), constants.W_OK).catch((no) => no) : undefined
  return WHY[refused?.code ?? code] ?? messageOf(thrown)
}

/** The folder itself, or the first one above it that is there. */
async function nearest(folder: string): Promise<string> {
  const there = await lstat(folder).catch(() => undefined)
  return there || dirname(folder) === folder ? folder : nearest(dirname(folder))
}

// Type of the file system as statfs(2) gives it, and the longest file of FAT32 (Microsoft, FAT32 File System Specification).
const FAT = 0x4d44
const MOST_FAT_BYTES = 2 ** 32 - 1

/** Bytes that a file in this folder can have. */
export async function mostFileBytes(folder: string): Promise<number> {
  const { type } = await statfs(folder)
  return type === FAT ? MOST_FAT_BYTES : Number.POSITIVE_INFINITY
}
