import { fulfil } from '../../../../server/fulfil.js'
import { stopHandover } from '../../../../services/handovers.js'

export const POST = fulfil('POST /api/handovers/{handover}/stop', ({ db, path }) => stopHandover(db, path.handover))
