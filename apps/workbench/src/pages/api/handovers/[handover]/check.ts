import { fulfil } from '../../../../server/fulfil.js'
import { checkHandover } from '../../../../services/handovers.js'

export const POST = fulfil('POST /api/handovers/{handover}/check', ({ db, path }) => checkHandover(db, path.handover))
