import { z } from 'zod'
import { database } from '../../../../../database/connection.js'
import { bodyOf, done, requireId, route } from '../../../../../server/respond.js'
import { cloudState, confirmCloud, signInToCloud, signOutOfCloud } from '../../../../../services/cloud.js'
import { requireOpenJob } from '../../../../../services/jobs.js'

const schema = z.union([
  z.object({ account: z.string().trim().min(1).max(200), password: z.string().min(1).max(500) }),
  z.object({ code: z.string().trim().min(1).max(20) }),
])

export const GET = route(async ({ params }) => Response.json(await cloudState(requireId(params.job))))

export const POST = route(async ({ params, request }) => {
  const jobId = requireId(params.job)
  await requireOpenJob(database(), jobId)
  const body = await bodyOf(request, schema)
  if ('code' in body) await confirmCloud(database(), jobId, body.code)
  else await signInToCloud(jobId, body.account, body.password)
  return Response.json(await cloudState(jobId))
})

export const DELETE = route(async ({ params }) => {
  await signOutOfCloud(database(), requireId(params.job))
  return done()
})
