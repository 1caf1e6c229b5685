import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { checkHandover } from '../../../../services/handovers.js'

export const POST = route(async ({ params }) =>
  Response.json(await checkHandover(database(), requireId(params.handover))),
)
