import { database } from '../../../../database/connection.js'
import { AppError } from '../../../../errors.js'
import { bodyOf, requireId, route } from '../../../../server/respond.js'
import { briefSchema } from '../../../../services/brief.js'
import { changeBrief, requireJob, versionOf } from '../../../../services/jobs.js'

/** The brief, with the tag of its version (RFC 9110, section 8.8.3). */
async function answer(job: number): Promise<Response> {
  const { brief } = await requireJob(database(), job)
  return Response.json({ brief, version: versionOf(brief) }, { headers: { etag: `"${versionOf(brief)}"` } })
}

export const GET = route(async ({ params }) => answer(requireId(params.job)))

/** Saves it, if the version that is there is still the one which the request has seen (RFC 9110, section 13.1.1). */
export const PUT = route(async ({ params, request }) => {
  const job = requireId(params.job)
  const version = /^"([0-9a-f]{16})"$/.exec(request.headers.get('if-match') ?? '')?.[1]
  if (version === undefined)
    throw new AppError(
      'invalid',
      'A change of a brief says which version of it was seen: the If-Match header is missing.',
    )
  await changeBrief(database(), job, await bodyOf(request, briefSchema), version)
  return answer(job)
})
