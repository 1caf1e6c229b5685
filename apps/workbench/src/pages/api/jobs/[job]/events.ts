import { AppError } from '../../../../domain/errors.js'
import { fulfil } from '../../../../server/fulfil.js'
import { jobEvents } from '../../../../server/job-events.js'

export const GET = fulfil('GET /api/jobs/{job}/events', async ({ path }) => {
  const stream = jobEvents.stream(path.job)
  if (!stream) throw new AppError('busy', 'Too many pages of Lumbrin are open. Close some of them.')
  return new Response(stream, { headers: { 'content-type': 'text/event-stream' } })
})
