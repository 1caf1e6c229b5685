import { CATEGORY_IDS } from '@lumbrin/core/categories/types'
import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { bodyOf, requireId, route } from '../../../../server/respond.js'
import { startHandover } from '../../../../services/handovers.js'

const options = {
  formats: z.partialRecord(z.enum(CATEGORY_IDS), z.array(z.string().max(40)).max(30)).default({}),
  duplicates: z.enum(['once', 'each']).default('once'),
}
const schema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('folder'),
    folder: z.string().trim().min(1, 'Name a folder.').max(1000),
    ...options,
  }),
  z.object({ kind: z.literal('zip'), ...options }),
])

export const POST = route(async ({ params, request }) => {
  const { formats, duplicates, ...to } = await bodyOf(request, schema)
  const id = await startHandover(database(), requireId(params.job), to, { formats, duplicates })
  return Response.json({ id }, { status: 201 })
})
