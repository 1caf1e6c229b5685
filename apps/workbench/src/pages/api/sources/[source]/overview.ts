import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { sourceOverview } from '../../../../services/contents.js'

export const GET = route(async ({ params }) =>
  Response.json(await sourceOverview(database(), requireId(params.source))),
)
