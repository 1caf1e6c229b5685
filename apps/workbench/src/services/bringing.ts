import { createWriteStream } from 'node:fs'
import { mkdir, readdir, rename, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { ReadableStream as NodeStream } from 'node:stream/web'
import { isInnerPathText } from '@lumbrin/core/backup/manifest-values'
import { safeName } from '@lumbrin/core/export/names'
import { readConfig } from '../config.js'
import { AppError } from '../domain/errors.js'
import type { JobId } from '../domain/ids.js'

/** The folder of a backup that is brought in from the browser's computer. */
export function broughtFolder(jobId: JobId, name: string): string {
  return join(readConfig().dataFolder, 'brought', `job-${jobId}`, safeName(name))
}

/** What of a folder is here already, path by path with its size: bringing it again goes on from there. */
export async function broughtFiles(jobId: JobId, name: string): Promise<Record<string, number>> {
  const folder = broughtFolder(jobId, name)
  const found = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => [])
  const files: Record<string, number> = {}
  for (const entry of found) {
    if (!entry.isFile() || entry.name.endsWith(PART)) continue
    const path = join(entry.parentPath, entry.name)
    files[path.slice(folder.length + 1).replaceAll('\\', '/')] = (await stat(path)).size
  }
  return files
}

const PART = '.part'

/** Stores one file as it streams in. It takes its name only when all of it is here. */
export async function bringFile(jobId: JobId, name: string, path: string, body: ReadableStream | null): Promise<void> {
  if (path === '' || !isInnerPathText(path) || path.includes('\\'))
    throw new AppError('invalid', 'A file of this folder has a path that leads outside; it was refused.')
  const target = join(broughtFolder(jobId, name), path)
  await mkdir(dirname(target), { recursive: true, mode: 0o700 })
  const source = body ? Readable.fromWeb(body as NodeStream) : Readable.from([])
  await pipeline(source, createWriteStream(`${target}${PART}`, { mode: 0o600 }))
  await rename(`${target}${PART}`, target)
}
