import { database } from '../../../database/connection.js'
import { listJobs } from '../../../database/jobs.js'
import { bodyOf, route } from '../../../server/respond.js'
import { briefSchema } from '../../../services/brief.js'
import { openJob } from '../../../services/jobs.js'

export const GET = route(async () => Response.json(await listJobs(database())))

export const POST = route(async ({ request }) => {
  const job = await openJob(database(), await bodyOf(request, briefSchema))
  return Response.json({ id: job.id, number: job.number }, { status: 201 })
})
