import { fulfil } from '../../../../server/fulfil.js'
import { revealPassword } from '../../../../services/secrets.js'

export const POST = fulfil('POST /api/findings/{finding}/secret', async ({ db, path }) => ({
  secret: await revealPassword(db, path.finding),
}))
