import { z } from 'zod'
import { database } from '../../../../../database/connection.js'
import { bodyOf, requireId, route } from '../../../../../server/respond.js'
import { addArchives, addLibrary, addSnapshot } from '../../../../../services/cloud.js'

const schema = z.union([
  z.object({ snapshot: z.string().min(1).max(200) }),
  z.object({ archivesOf: z.coerce.date() }),
  z.object({ library: z.literal('now') }),
])

export const POST = route(async ({ params, request }) => {
  const jobId = requireId(params.job)
  const body = await bodyOf(request, schema)
  const id =
    'snapshot' in body
      ? await addSnapshot(database(), jobId, body.snapshot)
      : 'archivesOf' in body
        ? await addArchives(database(), jobId, body.archivesOf)
        : await addLibrary(database(), jobId)
  return Response.json({ id }, { status: 201 })
})
