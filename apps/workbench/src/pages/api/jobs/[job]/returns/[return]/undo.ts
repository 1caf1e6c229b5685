import { fulfil } from '../../../../../../server/fulfil.js'
import { undoReturn } from '../../../../../../services/returning.js'

export const POST = fulfil('POST /api/jobs/{job}/returns/{return}/undo', ({ db, path }) =>
  undoReturn(db, path.job, path.return),
)
