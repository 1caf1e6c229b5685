import type { Db } from '../database/connection.js'
import * as rows from '../database/jobs.js'
import { appendLog } from '../database/log.js'
import type { Brief } from '../domain/brief.js'
import { briefSentence } from '../domain/brief-words.js'
import { AppError } from '../domain/errors.js'
import type { JobId } from '../domain/ids.js'
import type { Job, SavedBrief } from '../domain/job.js'
import { byUrgency, type JobLine, lineOf } from '../domain/job-queue.js'
import { settle } from './settling.js'
import { versionOf } from './versions.js'

/** A job. @throws AppError('not-found') */
export async function requireJob(db: Db, id: JobId): Promise<Job> {
  const job = await rows.findJob(db, id)
  if (!job) throw new AppError('not-found', 'There is no such job.')
  return job
}

/** A job; undefined: there is none. */
export const findJob = (db: Db, id: JobId): Promise<Job | undefined> => rows.findJob(db, id)

/** A job whose content was not purged: nothing is added to the others. @throws AppError */
export async function requireOpenJob(db: Db, id: JobId): Promise<Job> {
  const job = await requireJob(db, id)
  if (await rows.isPurged(db, id))
    throw new AppError('conflict', 'This job was purged; nothing can be added to it. Open a new one.')
  return job
}

/** People that the job's contacts and conversations name, for the brief to pick from. */
export const knownPeople = (db: Db, jobId: JobId): Promise<string[]> => rows.namesIn(db, jobId)

/** All jobs as the queue has them, the most urgent first. */
export async function jobQueue(db: Db, now = new Date()): Promise<JobLine[]> {
  const jobs = await rows.listJobs(db)
  return jobs.map((job) => lineOf(job, now)).sort(byUrgency)
}

/** The brief of a job with its version, and the job's zone, which follows from it. */
export const savedBriefOf = ({ brief, timeZone, timeZoneOf }: Job): SavedBrief => ({
  brief,
  version: versionOf(brief),
  timeZone,
  timeZoneOf,
})

/** The same by the job's id. @throws AppError('not-found') */
export const briefOf = async (db: Db, id: JobId): Promise<SavedBrief> => savedBriefOf(await requireJob(db, id))

/** Opens a job for a brief. */
export async function openJob(db: Db, brief: Brief): Promise<Job> {
  const job = await rows.insertJob(db, brief, new Date())
  await appendLog(db, job.id, 'Job opened', `${job.number} for ${brief.owner}`)
  return job
}

/**
 * Replaces a job's brief. `version`: of the one that whoever changes it has seen.
 * @throws AppError('conflict') where somebody else has saved another one since
 */
export async function changeBrief(db: Db, id: JobId, brief: Brief, version?: string): Promise<void> {
  await requireOpenJob(db, id)
  const isMeant = (there: Brief) => version === undefined || versionOf(there) === version
  if (!(await rows.updateBrief(db, id, brief, isMeant)))
    throw new AppError('conflict', 'Somebody else saved this brief since you opened it. Nothing was changed.')
  await appendLog(db, id, 'Brief changed', briefSentence(brief))
  await settle(db, id)
}
