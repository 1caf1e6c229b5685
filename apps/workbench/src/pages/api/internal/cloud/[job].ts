import { parameter } from '../../../../server/fulfil.js'
import { route } from '../../../../server/respond.js'
import { tokenForReader } from '../../../../services/cloud.js'
import { secretOf } from '../../../../services/internal.js'

export const GET = route(async ({ params, request, url }) => {
  const stale = url.searchParams.get('stale') ?? undefined
  return Response.json({ token: await tokenForReader(parameter('job', params.job), stale, secretOf(request)) })
})
