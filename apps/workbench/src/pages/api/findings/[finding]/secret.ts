import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { revealPassword } from '../../../../services/secrets.js'

export const POST = route(async ({ params }) =>
  Response.json(
    { secret: await revealPassword(database(), requireId(params.finding)) },
    { headers: { 'cache-control': 'no-store' } },
  ),
)
