import { readdir, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { DAY_MS } from '@lumbrin/core/findings/bin-days'
import type { Db } from '../database/connection.js'
import { listHandovers } from '../database/handovers.js'
import { appendLog, logHead } from '../database/log.js'
import { beginPurge, countRows, endPurge, purgeRows, unfinishedPurges } from '../database/purge.js'
import { listReads, listSources } from '../database/sources.js'
import { AppError } from '../domain/errors.js'
import { formatBytes } from '../domain/format.js'
import type { JobId } from '../domain/ids.js'
import type { Kept } from '../domain/job.js'
import { forget } from './cached.js'
import { signOutOfCloud } from './cloud.js'
import { foldersOf } from './job-folder.js'
import { requireJob } from './jobs.js'
import { forgetKeys } from './keyring.js'
import { forgetPictures } from './thumbnails.js'
import { forgetTree } from './trees.js'

const AT_WORK: readonly string[] = ['queued', 'running', 'stopping']

/** What of a job lies on this computer. */
export async function keptOf(db: Db, jobId: JobId): Promise<Kept> {
  const { brief, createdAt, purgedAt } = await requireJob(db, jobId)
  const folders = await Promise.all(
    (await foldersOf(jobId)).map(async (folder) => ({ ...folder, ...(await sizeOf(folder.path)) })),
  )
  return {
    keepUntil: new Date(createdAt.getTime() + brief.retentionDays * DAY_MS),
    rows: await countRows(db, jobId),
    folders: folders.filter(({ files }) => files > 0),
    purgedAt,
  }
}

async function sizeOf(folder: string): Promise<{ bytes: number; files: number }> {
  const found = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => [])
  let bytes = 0
  let files = 0
  for (const entry of found) {
    if (!entry.isFile()) continue
    files++
    bytes += (await stat(join(entry.parentPath, entry.name)).catch(() => undefined))?.size ?? 0
  }
  return { bytes, files }
}

/**
 * Removes a job's content of every kind from disk and database, and leaves a record. Sources that lie elsewhere, and
 * packages that were handed over, are not touched.
 * @throws AppError unless the job's number was typed, and nothing is at work on it
 */
export async function purgeJob(db: Db, jobId: JobId, typedNumber: string): Promise<void> {
  const job = await requireJob(db, jobId)
  if (typedNumber.trim() !== job.number)
    throw new AppError('invalid', `Type the number of the job, ${job.number}, to purge it. Nothing was removed.`)
  if ((await listReads(db, jobId)).some(({ state }) => AT_WORK.includes(state)))
    throw new AppError('conflict', 'A read of this job is running. Stop it first. Nothing was removed.')
  if ((await listHandovers(db, jobId)).some(({ state }) => AT_WORK.includes(state)))
    throw new AppError('conflict', 'A handover of this job is being written. Stop it first. Nothing was removed.')
  if (!(await beginPurge(db, jobId))) throw new AppError('conflict', 'This job was purged before.')
  await finishPurge(db, jobId)
}

/** Finishes purges that a crash left half done. */
export async function purgeLeftOver(db: Db): Promise<void> {
  for (const jobId of await unfinishedPurges(db)) await finishPurge(db, jobId)
}

async function finishPurge(db: Db, jobId: JobId): Promise<void> {
  const kept = await keptOf(db, jobId)
  const log = await logHead(db, jobId)
  await signOutOfCloud(db, jobId)
  for (const { id } of await listSources(db, jobId)) {
    forgetKeys(id)
    await forgetTree(id)
  }
  for (const { path } of await foldersOf(jobId)) await rm(path, { recursive: true, force: true })
  const gone = await purgeRows(db, jobId)
  forget(jobId)
  forgetPictures()
  const bytes = kept.folders.reduce((sum, folder) => sum + folder.bytes, 0)
  const files = kept.folders.reduce((sum, folder) => sum + folder.files, 0)
  await appendLog(
    db,
    jobId,
    'Purged',
    `${kept.rows.findings ?? 0} findings with ${kept.rows.sightings ?? 0} sightings of ${kept.rows.sources ?? 0} sources, and ${files} files, ${formatBytes(bytes)}. Words of the brief and of the log went with them; the log's seal before it was ${log.hash}, after ${log.entries} entries.${gone ? '' : ' The database is not Lumbrin’s own: what its log held is overwritten by later work.'}`,
  )
  await endPurge(db, jobId)
}
