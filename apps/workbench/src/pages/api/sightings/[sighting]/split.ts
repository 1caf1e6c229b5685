import { fulfil } from '../../../../server/fulfil.js'
import { splitSighting } from '../../../../services/joining.js'

export const POST = fulfil('POST /api/sightings/{sighting}/split', async ({ db, path }) => ({
  id: await splitSighting(db, path.sighting),
}))
