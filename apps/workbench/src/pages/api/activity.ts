import { fulfil } from '../../server/fulfil.js'
import { countActiveReads } from '../../services/sources.js'

export const GET = fulfil('GET /api/activity', async ({ db }) => ({ reads: await countActiveReads(db) }))
