import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { bodyOf, done, requireId, route } from '../../../../server/respond.js'
import { sayStepDone } from '../../../../services/devices.js'

const schema = z.object({ rule: z.string().min(1).max(60), done: z.boolean() })

/** Says that a step of the route was done by hand, or takes that back. */
export const POST = route(async ({ params, request }) => {
  const { rule, done: isDone } = await bodyOf(request, schema)
  await sayStepDone(database(), requireId(params.job), rule, isDone)
  return done()
})
