import { fulfil } from '../../server/fulfil.js'
import { operators } from '../../services/logs.js'

export const GET = fulfil('GET /api/operators', ({ db }) => operators(db))
