import { fulfil } from '../../../../server/fulfil.js'
import { tryAgain } from '../../../../services/sources.js'

export const POST = fulfil('POST /api/sources/{source}/again', async ({ db, path }) => ({
  id: await tryAgain(db, path.source),
}))
