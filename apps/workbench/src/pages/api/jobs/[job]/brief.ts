import { fulfil } from '../../../../server/fulfil.js'
import { briefOf, changeBrief } from '../../../../services/jobs.js'

export const GET = fulfil('GET /api/jobs/{job}/brief', ({ db, path }) => briefOf(db, path.job))

export const PUT = fulfil('PUT /api/jobs/{job}/brief', async ({ db, path, body, seen }) => {
  await changeBrief(db, path.job, body, seen)
  return briefOf(db, path.job)
})
