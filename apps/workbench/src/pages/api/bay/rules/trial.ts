import { fulfil } from '../../../../server/fulfil.js'
import { tryRules } from '../../../../services/bay-rules.js'

export const POST = fulfil('POST /api/bay/rules/trial', ({ db, body }) => tryRules(db, body))
