import { database } from '../../../../database/connection.js'
import { bodyOf, requireId, route } from '../../../../server/respond.js'
import { briefSchema } from '../../../../services/brief.js'
import { jobRoute } from '../../../../services/route.js'

/** The route as it would be with the brief that is being written. */
export const POST = route(async ({ params, request }) =>
  Response.json(await jobRoute(database(), requireId(params.job), await bodyOf(request, briefSchema))),
)
