import { database } from '../../../../database/connection.js'
import { AppError } from '../../../../errors.js'
import { JobEvents } from '../../../../server/events.js'
import { requireId, route } from '../../../../server/respond.js'
import { jobProgress } from '../../../../services/progress.js'

const events = new JobEvents(async (job) => JSON.stringify(await jobProgress(database(), job)))

/** Server-sent events: the job's reads, handovers and counts, each time that something of them changed. */
export const GET = route(async ({ params }) => {
  const stream = events.stream(requireId(params.job))
  if (!stream) throw new AppError('busy', 'Too many pages of Lumbrin are open. Close some of them.')
  return new Response(stream, { headers: { 'content-type': 'text/event-stream' } })
})
