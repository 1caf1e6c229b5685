import type { Db } from '../database/connection.js'
import * as rows from '../database/jobs.js'
import { appendLog } from '../database/log.js'
import { AppError } from '../errors.js'
import type { Brief } from './brief.js'
import { settle } from './settling.js'
import { versionOf } from './versions.js'

/** A job. @throws AppError('not-found') */
export async function requireJob(db: Db, id: number): Promise<rows.JobRow> {
  const job = await rows.findJob(db, id)
  if (!job) throw new AppError('not-found', 'There is no such job.')
  return job
}

/** A job whose content was not purged: nothing is added to the others. @throws AppError */
export async function requireOpenJob(db: Db, id: number): Promise<rows.JobRow> {
  const job = await requireJob(db, id)
  if (await rows.isPurged(db, id))
    throw new AppError('conflict', 'This job was purged; nothing can be added to it. Open a new one.')
  return job
}

/** People that the job's contacts and conversations name, for the brief to pick from. */
export const knownPeople = (db: Db, jobId: number): Promise<string[]> => rows.namesIn(db, jobId)

/** Opens a job for a brief. */
export async function openJob(db: Db, brief: Brief): Promise<rows.JobRow> {
  const job = await rows.insertJob(db, brief, new Date())
  await appendLog(db, job.id, 'Job opened', `${job.number} for ${brief.owner}`)
  return job
}

/**
 * Replaces a job's brief. `version`: of the one that whoever changes it has seen.
 * @throws AppError('conflict') where somebody else has saved another one since
 */
export async function changeBrief(db: Db, id: number, brief: Brief, version?: string): Promise<void> {
  await requireOpenJob(db, id)
  const isMeant = (there: Brief) => version === undefined || versionOf(there) === version
  if (!(await rows.updateBrief(db, id, brief, isMeant)))
    throw new AppError('conflict', 'Somebody else saved this brief since you opened it. Nothing was changed.')
  await appendLog(db, id, 'Brief changed', brief.categories.join(', ') || 'no categories named')
  await settle(db, id)
}
