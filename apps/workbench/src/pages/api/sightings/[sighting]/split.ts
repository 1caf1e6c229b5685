import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { splitSighting } from '../../../../services/joining.js'

export const POST = route(async ({ params }) =>
  Response.json({ id: await splitSighting(database(), requireId(params.sighting)) }),
)
