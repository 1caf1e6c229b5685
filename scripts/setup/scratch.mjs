import { accessSync, constants, mkdtempSync, rmSync, statfsSync } from 'node:fs'
import { freemem, tmpdir } from 'node:os'
import { join } from 'node:path'

// A file system in memory, as Linux has it (tmpfs(5)).
const IN_MEMORY = '/dev/shm'
const ROOM_NEEDED = 6e9

/**
 * Runs `work` with a temporary folder that is deleted when the work ends. The folder is on a file system in memory where
 * there is room: tests write thousands of small files and databases, and would wait for the disk at each.
 */
export async function withScratch(work) {
  const folder = mkdtempSync(join(hasRoom() ? IN_MEMORY : tmpdir(), 'lumbrin-checks-'))
  try {
    await work(folder)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

function hasRoom() {
  try {
    accessSync(IN_MEMORY, constants.W_OK)
    const { bavail, bsize } = statfsSync(IN_MEMORY)
    return bavail * bsize > ROOM_NEEDED && freemem() > ROOM_NEEDED
  } catch {
    return false
  }
}
