import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { bodyOf, requireId, route } from '../../../../server/respond.js'
import { addDevice } from '../../../../services/sources.js'

const schema = z.object({ udid: z.string().min(1).max(64) })

export const POST = route(async ({ params, request }) => {
  const { udid } = await bodyOf(request, schema)
  return Response.json({ id: await addDevice(database(), requireId(params.job), udid) }, { status: 201 })
})
