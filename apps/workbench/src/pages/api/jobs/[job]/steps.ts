import { fulfil } from '../../../../server/fulfil.js'
import { sayStepDone } from '../../../../services/route.js'

export const POST = fulfil('POST /api/jobs/{job}/steps', ({ db, path, body }) =>
  sayStepDone(db, path.job, body.rule, body.done),
)
