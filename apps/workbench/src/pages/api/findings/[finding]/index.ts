import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { requireFinding } from '../../../../services/content.js'

export const GET = route(async ({ params }) =>
  Response.json(await requireFinding(database(), requireId(params.finding))),
)
