import { z } from 'zod'
import { database } from '../../../../../database/connection.js'
import { requireId, route } from '../../../../../server/respond.js'
import { peekFile } from '../../../../../services/contents.js'

const schema = z.object({ domain: z.string(), path: z.string().min(1), table: z.string().optional() })

export const GET = route(async ({ params, url }) => {
  const { table, ...place } = schema.parse(Object.fromEntries(url.searchParams))
  return Response.json(await peekFile(database(), requireId(params.source), place, table))
})
