import { fulfil } from '../../../../server/fulfil.js'
import { explainFinding } from '../../../../services/findings.js'

export const GET = fulfil('GET /api/findings/{finding}', ({ db, path }) => explainFinding(db, path.finding))
