import { fulfil } from '../../../../server/fulfil.js'
import { saySourceName } from '../../../../services/devices.js'

export const PUT = fulfil('PUT /api/sources/{source}/name', ({ db, path, body }) =>
  saySourceName(db, path.source, body.name),
)
