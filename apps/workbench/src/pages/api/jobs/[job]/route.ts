import { fulfil } from '../../../../server/fulfil.js'
import { jobRoute } from '../../../../services/route.js'

export const POST = fulfil('POST /api/jobs/{job}/route', ({ db, path, body }) => jobRoute(db, path.job, body))
