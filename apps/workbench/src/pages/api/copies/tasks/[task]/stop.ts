import { fulfil } from '../../../../../server/fulfil.js'
import { stopCopyTask } from '../../../../../services/safe-copies.js'

export const POST = fulfil('POST /api/copies/tasks/{task}/stop', ({ db, path }) => stopCopyTask(db, path.task))
