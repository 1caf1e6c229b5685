import { fulfil } from '../../../../server/fulfil.js'
import { saySourceDevice } from '../../../../services/devices.js'

export const POST = fulfil('POST /api/sources/{source}/device', ({ db, path, body }) =>
  saySourceDevice(db, path.source, body.key),
)
