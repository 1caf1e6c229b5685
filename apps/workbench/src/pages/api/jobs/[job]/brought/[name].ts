import { z } from 'zod'
import { database } from '../../../../../database/connection.js'
import { done, requireId, route } from '../../../../../server/respond.js'
import { bringFile, broughtFiles, broughtFolder } from '../../../../../services/bringing.js'
import { requireOpenJob } from '../../../../../services/jobs.js'
import { addSource } from '../../../../../services/sources.js'

const nameSchema = z.string().min(1).max(200)
const pathSchema = z.string().min(1).max(1000)

export const GET = route(async ({ params }) =>
  Response.json(await broughtFiles(requireId(params.job), nameSchema.parse(params.name))),
)

export const PUT = route(async ({ params, request, url }) => {
  const job = await requireOpenJob(database(), requireId(params.job))
  await bringFile(job.id, nameSchema.parse(params.name), pathSchema.parse(url.searchParams.get('path')), request.body)
  return done()
})

export const POST = route(async ({ params }) => {
  const job = requireId(params.job)
  const id = await addSource(database(), job, broughtFolder(job, nameSchema.parse(params.name)))
  return Response.json({ id }, { status: 201 })
})
