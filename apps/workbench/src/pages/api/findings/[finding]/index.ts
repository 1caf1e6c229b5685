import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { explainFinding } from '../../../../services/findings.js'

export const GET = route(async ({ params }) =>
  Response.json(await explainFinding(database(), requireId(params.finding))),
)
