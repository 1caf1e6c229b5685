import { statfs } from 'node:fs/promises'
import { dirname } from 'node:path'
import { readConfig } from '../config.js'

/** Bytes that are free where a folder is, or will be. */
export async function freeSpace(folder: string): Promise<number> {
  const found = await statfs(folder).catch(() => undefined)
  if (found) return found.bavail * found.bsize
  return folder === dirname(folder) ? 0 : freeSpace(dirname(folder))
}

// Below this nothing is begun anew on a disk that was full: it would be full again at once.
const ROOM_BYTES = 256 << 20

/** True where the disk with our own data has room to go on. */
export const hasRoom = async (): Promise<boolean> => (await freeSpace(readConfig().dataFolder)) >= ROOM_BYTES

// Of the file system, and of the database for its own files.
const FULL = new Set(['ENOSPC', 'EDQUOT', 'ER_DISK_FULL', 'ER_RECORD_FILE_FULL', 'ER_TEMP_FILE_WRITE_FAILURE'])

/** True for errors that say that a disk is full. */
export const isDiskFull = (thrown: unknown): boolean => FULL.has((thrown as { code?: string } | null)?.code ?? '')
