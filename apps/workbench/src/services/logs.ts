import { actingNow } from '../database/acting.js'
import type { Db } from '../database/connection.js'
import { listJobs } from '../database/jobs.js'
import { checkLog, knownOperators, type LogCheck, listLog } from '../database/log.js'
import type { JobId } from '../domain/ids.js'
import type { LogEntry } from '../domain/job.js'

/** The entries of a job's log, the newest first, and what a check of them found. */
export async function logOf(db: Db, jobId: JobId): Promise<{ entries: LogEntry[]; check: LogCheck }> {
  const [entries, check] = await Promise.all([listLog(db, jobId), checkLog(db, jobId)])
  return { entries, check }
}

/** Computes the logs of all jobs anew. */
export async function checkLogs(db: Db): Promise<(LogCheck & { number: string })[]> {
  const checks = []
  for (const { id, number } of await listJobs(db)) checks.push({ number, ...(await checkLog(db, id)) })
  return checks
}

/** Who works at this browser, and who is known from any log. */
export const operators = async (db: Db): Promise<{ current: string; known: string[] }> => ({
  current: actingNow(),
  known: await knownOperators(db),
})
