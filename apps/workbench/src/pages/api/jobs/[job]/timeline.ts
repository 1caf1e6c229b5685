import { fulfil } from '../../../../server/fulfil.js'
import { timelineOf } from '../../../../services/progress.js'

export const GET = fulfil('GET /api/jobs/{job}/timeline', ({ db, path, query }) => timelineOf(db, path.job, query))
