import { fulfil } from '../../../../server/fulfil.js'
import { serveContent } from '../../../../server/stream.js'
import { openFindingContent } from '../../../../services/content.js'

export const GET = fulfil('GET /api/findings/{finding}/content', async ({ db, path, request }) =>
  serveContent(request, await openFindingContent(db, path.finding)),
)
