import { fulfil } from '../../../../server/fulfil.js'
import { jobAnswer } from '../../../../services/answer.js'

export const GET = fulfil('GET /api/jobs/{job}/answer', ({ db, path }) => jobAnswer(db, path.job))
