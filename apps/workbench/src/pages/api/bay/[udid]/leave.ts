import { fulfil } from '../../../../server/fulfil.js'
import { leaveRecovery } from '../../../../services/reviving.js'

export const POST = fulfil('POST /api/bay/{udid}/leave', ({ path }) => leaveRecovery(path.udid))
