import { parameter } from '../../../../server/fulfil.js'
import { route } from '../../../../server/respond.js'
import { secretOf } from '../../../../services/internal.js'
import { keysForReader } from '../../../../services/keyring.js'

export const GET = route(async ({ params, request }) =>
  Response.json(await keysForReader(parameter('source', params.source), secretOf(request)), {
    headers: { 'cache-control': 'no-store' },
  }),
)
