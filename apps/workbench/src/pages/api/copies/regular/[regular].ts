import { fulfil } from '../../../../server/fulfil.js'
import { endRegularCopy } from '../../../../services/regular-copies.js'

export const DELETE = fulfil('DELETE /api/copies/regular/{regular}', ({ db, path }) => endRegularCopy(db, path.regular))
