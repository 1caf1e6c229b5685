import { z } from 'zod'
import { database } from '../../../../../database/connection.js'
import { requireId, route } from '../../../../../server/respond.js'
import { pageMap } from '../../../../../services/inside.js'

const schema = z.object({ domain: z.string(), path: z.string().min(1) })

export const GET = route(async ({ params, url }) => {
  const place = schema.parse(Object.fromEntries(url.searchParams))
  return Response.json(await pageMap(database(), { sourceId: requireId(params.source), ...place }))
})
