import { fulfil } from '../../../../server/fulfil.js'
import { changeTray } from '../../../../services/tray.js'

export const POST = fulfil('POST /api/jobs/{job}/tray', ({ db, path, body }) => changeTray(db, path.job, body))
