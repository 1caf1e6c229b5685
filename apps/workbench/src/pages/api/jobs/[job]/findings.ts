import { fulfil } from '../../../../server/fulfil.js'
import { pageOf } from '../../../../services/search.js'

export const GET = fulfil('GET /api/jobs/{job}/findings', ({ db, path, query }) => pageOf(db, path.job, query))
