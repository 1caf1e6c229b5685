import { fulfil } from '../../../../server/fulfil.js'
import { sayDeviceRole } from '../../../../services/devices.js'

export const POST = fulfil('POST /api/jobs/{job}/device-role', ({ db, path, body }) =>
  sayDeviceRole(db, path.job, body.key, body.role),
)
