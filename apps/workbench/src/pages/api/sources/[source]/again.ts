import { database } from '../../../../database/connection.js'
import { findSource, listReads } from '../../../../database/sources.js'
import { requireId, route } from '../../../../server/respond.js'
import { tryAgain } from '../../../../services/sources.js'

/** Tries again all of a source that could not be had. */
export const POST = route(async ({ params }) => {
  const source = requireId(params.source)
  const jobId = (await findSource(database(), source))?.jobId ?? 0
  const id = await tryAgain(database(), source, await listReads(database(), jobId))
  return Response.json({ id }, { status: 201 })
})
