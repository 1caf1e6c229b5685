import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { bodyOf, done, requireId, route } from '../../../../server/respond.js'
import { DEVICE_ROLES, sayDeviceRole } from '../../../../services/devices.js'

const schema = z.object({ key: z.string().min(1).max(190), role: z.enum(DEVICE_ROLES) })

/** Whose a device of the job is, and whether the brief is about it. */
export const POST = route(async ({ params, request }) => {
  const { key, role } = await bodyOf(request, schema)
  await sayDeviceRole(database(), requireId(params.job), key, role)
  return done()
})
