import { fulfil } from '../../../../../server/fulfil.js'
import { returnsOf, returnTray } from '../../../../../services/returning.js'

export const GET = fulfil('GET /api/jobs/{job}/returns', ({ db, path }) => returnsOf(db, path.job))

export const POST = fulfil('POST /api/jobs/{job}/returns', async ({ db, path, body }) => ({
  count: await returnTray(db, path.job, body.udid, body.confirmed),
}))
