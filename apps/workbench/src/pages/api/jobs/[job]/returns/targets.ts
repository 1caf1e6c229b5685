import { fulfil } from '../../../../../server/fulfil.js'
import { returnTargets } from '../../../../../services/returning.js'

export const GET = fulfil('GET /api/jobs/{job}/returns/targets', ({ db, path }) => returnTargets(db, path.job))
