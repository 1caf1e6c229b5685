import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { bodyOf, requireId, route } from '../../../../server/respond.js'
import { startHandover } from '../../../../services/handovers.js'

const schema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('folder'), folder: z.string().trim().min(1, 'Name a folder.').max(1000) }),
  z.object({ kind: z.literal('zip') }),
])

export const POST = route(async ({ params, request }) => {
  const id = await startHandover(database(), requireId(params.job), await bodyOf(request, schema))
  return Response.json({ id }, { status: 201 })
})
