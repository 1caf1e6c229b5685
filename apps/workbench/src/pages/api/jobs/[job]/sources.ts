import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { bodyOf, requireId, route } from '../../../../server/respond.js'
import { addSource } from '../../../../services/sources.js'

const schema = z.object({ folder: z.string().trim().min(1, 'Name a folder.').max(1000) })

export const POST = route(async ({ params, request }) => {
  const { folder } = await bodyOf(request, schema)
  return Response.json({ id: await addSource(database(), requireId(params.job), folder) }, { status: 201 })
})
