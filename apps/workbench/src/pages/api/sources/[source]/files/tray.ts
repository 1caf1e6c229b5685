import { z } from 'zod'
import { database } from '../../../../../database/connection.js'
import { bodyOf, done, requireId, route } from '../../../../../server/respond.js'
import { pickFile } from '../../../../../services/contents.js'

const schema = z.object({ domain: z.string(), path: z.string().min(1) })

export const POST = route(async ({ params, request }) => {
  await pickFile(database(), requireId(params.source), await bodyOf(request, schema))
  return done()
})
