import { fulfil } from '../../../../../server/fulfil.js'
import { personOf } from '../../../../../services/people.js'

export const GET = fulfil('GET /api/jobs/{job}/person', ({ db, path, query }) => personOf(db, path.job, query.name))
