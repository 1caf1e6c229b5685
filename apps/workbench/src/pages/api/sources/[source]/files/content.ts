import { fulfil } from '../../../../../server/fulfil.js'
import { serveContent } from '../../../../../server/stream.js'
import { openFile } from '../../../../../services/contents.js'

export const GET = fulfil('GET /api/sources/{source}/files/content', async ({ db, path, query, request }) =>
  serveContent(request, await openFile(db, path.source, query)),
)
