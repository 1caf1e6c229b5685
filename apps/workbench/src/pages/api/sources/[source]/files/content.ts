import { z } from 'zod'
import { database } from '../../../../../database/connection.js'
import { requireId, route } from '../../../../../server/respond.js'
import { serveContent } from '../../../../../server/stream.js'
import { openFile } from '../../../../../services/contents.js'

const schema = z.object({ domain: z.string(), path: z.string().min(1) })

export const GET = route(async ({ params, request, url }) =>
  serveContent(
    request,
    await openFile(database(), requireId(params.source), schema.parse(Object.fromEntries(url.searchParams))),
  ),
)
