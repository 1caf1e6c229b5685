import { fulfil } from '../../server/fulfil.js'
import { checkLogs } from '../../services/logs.js'

export const GET = fulfil('GET /api/log-check', ({ db }) => checkLogs(db))
