import { fulfil } from '../../../../server/fulfil.js'
import { beginUnlock, forgetKeys, lockState } from '../../../../services/keyring.js'

export const GET = fulfil('GET /api/sources/{source}/lock', async ({ path }) => lockState(path.source))

export const POST = fulfil('POST /api/sources/{source}/lock', ({ db, path, body }) =>
  beginUnlock(db, path.source, body.password, body.others),
)

export const DELETE = fulfil('DELETE /api/sources/{source}/lock', async ({ path }) => forgetKeys(path.source))
