import { fulfil } from '../../../../../server/fulfil.js'
import { addMany } from '../../../../../services/adding-many.js'

export const POST = fulfil('POST /api/jobs/{job}/sources/many', ({ db, path, body }) => addMany(db, path.job, body))
