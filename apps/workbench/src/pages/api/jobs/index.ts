import { fulfil } from '../../../server/fulfil.js'
import { jobQueue, openJob } from '../../../services/jobs.js'

export const GET = fulfil('GET /api/jobs', ({ db }) => jobQueue(db))

export const POST = fulfil('POST /api/jobs', async ({ db, body }) => {
  const { id, number } = await openJob(db, body)
  return { id, number }
})
