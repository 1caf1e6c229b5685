import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { bodyOf, done, requireId, route } from '../../../../server/respond.js'
import { purgeJob } from '../../../../services/purging.js'

const schema = z.object({ number: z.string().max(20) })

export const POST = route(async ({ params, request }) => {
  const { number } = await bodyOf(request, schema)
  await purgeJob(database(), requireId(params.job), number)
  return done()
})
