import { fulfil } from '../../../../server/fulfil.js'
import { facetsOf } from '../../../../services/progress.js'

export const GET = fulfil('GET /api/jobs/{job}/facets', ({ db, path, query }) => facetsOf(db, path.job, query.words))
