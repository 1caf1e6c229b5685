import { requireId, route } from '../../../../server/respond.js'
import { keysForReader } from '../../../../services/keyring.js'

export const GET = route(async ({ params, request }) =>
  Response.json(await keysForReader(requireId(params.source), request.headers.get('x-lumbrin-secret')), {
    headers: { 'cache-control': 'no-store' },
  }),
)
