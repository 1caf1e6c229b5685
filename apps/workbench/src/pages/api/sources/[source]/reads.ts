import { CATEGORY_IDS, PASSES } from '@lumbrin/core/categories/types'
import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { findSource, listReads } from '../../../../database/sources.js'
import { bodyOf, requireId, route } from '../../../../server/respond.js'
import { startRead } from '../../../../services/sources.js'

const schema = z.object({
  categories: z.array(z.enum(CATEGORY_IDS)).default([]),
  passes: z.array(z.enum(PASSES)).default([]),
  /** What was read before is read anew. */
  again: z.boolean().default(false),
})

export const POST = route(async ({ params, request }) => {
  const source = requireId(params.source)
  const { categories, passes, again } = await bodyOf(request, schema)
  const jobId = (await findSource(database(), source))?.jobId ?? 0
  const id = await startRead(database(), source, categories, passes, await listReads(database(), jobId), again)
  return Response.json({ id }, { status: 201 })
})
