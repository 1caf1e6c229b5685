import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { bodyOf, done, requireId, route } from '../../../../server/respond.js'
import { saySourceDevice } from '../../../../services/devices.js'

const schema = z.object({ key: z.string().min(1).max(190).nullable() })

/** Of which device a source is, as the technician says; null: as it says itself. */
export const POST = route(async ({ params, request }) => {
  await saySourceDevice(database(), requireId(params.source), (await bodyOf(request, schema)).key)
  return done()
})
