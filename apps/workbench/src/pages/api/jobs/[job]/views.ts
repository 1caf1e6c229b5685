import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { deleteView, listViews, saveView } from '../../../../database/views.js'
import { AppError } from '../../../../errors.js'
import { bodyOf, requireId, route } from '../../../../server/respond.js'
import { requireOpenJob } from '../../../../services/jobs.js'

const schema = z.object({
  name: z.string().trim().min(1, 'Give the view a name.').max(60),
  address: z.string().startsWith('?').max(1500),
})

export const GET = route(async ({ params }) => Response.json(await listViews(database(), requireId(params.job))))

export const POST = route(async ({ params, request }) => {
  const job = await requireOpenJob(database(), requireId(params.job))
  const view = await bodyOf(request, schema)
  if (!(await saveView(database(), job.id, view)))
    throw new AppError(
      'conflict',
      `Another view is named “${view.name}” already. Choose another name, or delete that one.`,
    )
  return Response.json(await listViews(database(), job.id))
})

export const DELETE = route(async ({ params, request }) => {
  const job = requireId(params.job)
  await deleteView(database(), job, (await bodyOf(request, z.object({ id: z.number().int().positive() }))).id)
  return Response.json(await listViews(database(), job))
})
