import { database } from '../../database/connection.js'
import { listJobs } from '../../database/jobs.js'
import { checkLog } from '../../database/log.js'
import { route } from '../../server/respond.js'

/** Computes the logs of all jobs anew. */
export const GET = route(async () => {
  const jobs = []
  for (const { id, number } of await listJobs(database())) jobs.push({ number, ...(await checkLog(database(), id)) })
  return Response.json(jobs)
})
