import { fulfil } from '../../../../server/fulfil.js'
import { addSource } from '../../../../services/sources.js'

export const POST = fulfil('POST /api/jobs/{job}/sources', async ({ db, path, body }) => ({
  id: await addSource(db, path.job, body.folder),
}))
