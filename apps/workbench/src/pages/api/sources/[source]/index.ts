import { fulfil } from '../../../../server/fulfil.js'
import { removeSource } from '../../../../services/removing.js'

export const DELETE = fulfil('DELETE /api/sources/{source}', ({ db, path }) => removeSource(db, path.source))
