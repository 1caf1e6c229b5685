import { fulfil } from '../../../../server/fulfil.js'
import { previewRemoval } from '../../../../services/removing.js'

export const GET = fulfil('GET /api/sources/{source}/removal', ({ db, path }) => previewRemoval(db, path.source))
