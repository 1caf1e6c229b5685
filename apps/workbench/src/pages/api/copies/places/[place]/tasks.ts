import { fulfil } from '../../../../../server/fulfil.js'
import { startCopyTask } from '../../../../../services/safe-copies.js'

export const POST = fulfil('POST /api/copies/places/{place}/tasks', async ({ db, path, body }) => ({
  id: await startCopyTask(db, path.place, body),
}))
