import { fulfil } from '../../../server/fulfil.js'
import { copiesPage } from '../../../services/safe-copies.js'

export const GET = fulfil('GET /api/copies', ({ db }) => copiesPage(db))
