import { fulfil } from '../../../../server/fulfil.js'
import { pointsOf } from '../../../../services/search.js'

export const GET = fulfil('GET /api/jobs/{job}/points', ({ db, path, query }) => pointsOf(db, path.job, query))
