import { fulfil } from '../../../../server/fulfil.js'
import { startRead } from '../../../../services/sources.js'

export const POST = fulfil('POST /api/sources/{source}/reads', async ({ db, path, body }) => ({
  id: await startRead(db, path.source, body),
}))
