import { fulfil } from '../../../server/fulfil.js'
import { bayNow } from '../../../services/bay.js'

export const GET = fulfil('GET /api/bay', ({ db }) => bayNow(db))
