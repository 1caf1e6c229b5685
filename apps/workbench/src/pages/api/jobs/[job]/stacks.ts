import { fulfil } from '../../../../server/fulfil.js'
import { stacksOf } from '../../../../services/copies.js'

export const GET = fulfil('GET /api/jobs/{job}/stacks', ({ db, path }) => stacksOf(db, path.job))
