import { fulfil } from '../../../../server/fulfil.js'
import { conversationsOf } from '../../../../services/progress.js'

export const GET = fulfil('GET /api/jobs/{job}/conversations', ({ db, path, query }) =>
  conversationsOf(db, path.job, query),
)
