import { fulfil } from '../../../../server/fulfil.js'
import { beginInstall } from '../../../../services/reviving.js'

export const POST = fulfil('POST /api/bay/{udid}/install', ({ path, body }) =>
  beginInstall(path.udid, body.image, body.keep, body.name),
)
