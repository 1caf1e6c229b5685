import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { serveContent } from '../../../../server/stream.js'
import { openFindingContent } from '../../../../services/content.js'

export const GET = route(async ({ params, request }) =>
  serveContent(request, await openFindingContent(database(), requireId(params.finding))),
)
