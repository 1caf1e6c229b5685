import { fulfil } from '../../../../server/fulfil.js'
import { addPlace } from '../../../../services/safe-copies.js'

export const POST = fulfil('POST /api/copies/places', async ({ db, body }) => ({ id: await addPlace(db, body.folder) }))
