import { database } from '../../../../database/connection.js'
import { bodyOf, requireId, route, versioned, versionSeen } from '../../../../server/respond.js'
import { briefSchema } from '../../../../services/brief.js'
import { changeBrief, requireJob } from '../../../../services/jobs.js'
import { versionOf } from '../../../../services/versions.js'

async function answer(job: number): Promise<Response> {
  const { brief } = await requireJob(database(), job)
  return versioned({ brief, version: versionOf(brief) })
}

export const GET = route(async ({ params }) => answer(requireId(params.job)))

export const PUT = route(async ({ params, request }) => {
  const job = requireId(params.job)
  await changeBrief(database(), job, await bodyOf(request, briefSchema), versionSeen(request))
  return answer(job)
})
