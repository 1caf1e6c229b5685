import { fulfil } from '../../../../server/fulfil.js'
import { addDevice } from '../../../../services/sources.js'

export const POST = fulfil('POST /api/jobs/{job}/devices', async ({ db, path, body }) => ({
  id: await addDevice(db, path.job, body.udid),
}))
