import { database } from '../../../../../database/connection.js'
import { requireId, route } from '../../../../../server/respond.js'
import { serveContent } from '../../../../../server/stream.js'
import { openAttachment } from '../../../../../services/content.js'

/** Attachments are numbered from 1. */
export const GET = route(async ({ params, request }) =>
  serveContent(request, await openAttachment(database(), requireId(params.finding), requireId(params.index) - 1)),
)
