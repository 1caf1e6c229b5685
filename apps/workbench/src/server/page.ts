import { PARAMETERS } from '../api/parameters.js'
import { type Db, database } from '../database/connection.js'
import type { Job } from '../domain/job.js'
import { findJob } from '../services/jobs.js'

/** What every page works with. */
export const pageDatabase = (): Db => database()

/** The job that a page's address names; undefined: there is none. */
export async function jobOfPage(params: Record<string, string | undefined>): Promise<Job | undefined> {
  const id = PARAMETERS.job.safeParse(params.job)
  return id.success ? findJob(database(), id.data) : undefined
}
