import { fulfil } from '../../../../server/fulfil.js'
import { jobSourcesOf } from '../../../../services/job-sources.js'
import { addSource } from '../../../../services/sources.js'

export const GET = fulfil('GET /api/jobs/{job}/sources', ({ db, path }) => jobSourcesOf(db, path.job))

export const POST = fulfil('POST /api/jobs/{job}/sources', async ({ db, path, body }) => ({
  id: await addSource(db, path.job, body.folder),
}))
