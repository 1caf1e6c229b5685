import { fulfil } from '../../../../server/fulfil.js'
import { suggestionsOf } from '../../../../services/progress.js'

export const GET = fulfil('GET /api/jobs/{job}/suggestions', ({ db, path, query }) =>
  suggestionsOf(db, path.job, query.category),
)
