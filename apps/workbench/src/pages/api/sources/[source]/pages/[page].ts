import { z } from 'zod'
import { database } from '../../../../../database/connection.js'
import { requireId, route } from '../../../../../server/respond.js'
import { pageView } from '../../../../../services/inside.js'

const schema = z.object({
  domain: z.string(),
  path: z.string().min(1),
  file: z.enum(['database', 'wal', 'journal']).optional(),
  offset: z.coerce.number().int().min(0).optional(),
})

export const GET = route(async ({ params, url }) => {
  const { file, offset, ...place } = schema.parse(Object.fromEntries(url.searchParams))
  const at = file && offset !== undefined ? { file, offset } : undefined
  return Response.json(
    await pageView(database(), { sourceId: requireId(params.source), ...place }, requireId(params.page), at),
  )
})
