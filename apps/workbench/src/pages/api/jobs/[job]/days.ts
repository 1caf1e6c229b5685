import { fulfil } from '../../../../server/fulfil.js'
import { daysOfMonth } from '../../../../services/search.js'

export const GET = fulfil('GET /api/jobs/{job}/days', ({ db, path, query }) =>
  daysOfMonth(db, path.job, query, query.month),
)
