import { requireId, route } from '../../../../server/respond.js'
import { tokenForReader } from '../../../../services/cloud.js'
import { secretOf } from '../../../../services/internal.js'

export const GET = route(async ({ params, request, url }) => {
  const stale = url.searchParams.get('stale') ?? undefined
  return Response.json({ token: await tokenForReader(requireId(params.job), stale, secretOf(request)) })
})
