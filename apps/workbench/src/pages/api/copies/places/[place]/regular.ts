import { fulfil } from '../../../../../server/fulfil.js'
import { addRegularCopy } from '../../../../../services/regular-copies.js'

export const POST = fulfil('POST /api/copies/places/{place}/regular', async ({ db, path, body }) => ({
  id: await addRegularCopy(db, path.place, body),
}))
