import { fulfil } from '../../../../../server/fulfil.js'
import { serveContent } from '../../../../../server/stream.js'
import { openAttachment } from '../../../../../services/content.js'

export const GET = fulfil('GET /api/findings/{finding}/attachments/{index}', async ({ db, path, request }) =>
  serveContent(request, await openAttachment(db, path.finding, path.index - 1)),
)
