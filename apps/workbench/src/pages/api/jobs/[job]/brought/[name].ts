import { fulfil } from '../../../../../server/fulfil.js'
import { bringFile, broughtFiles, broughtFolder } from '../../../../../services/bringing.js'
import { requireOpenJob } from '../../../../../services/jobs.js'
import { addSource } from '../../../../../services/sources.js'

export const GET = fulfil('GET /api/jobs/{job}/brought/{name}', ({ path }) => broughtFiles(path.job, path.name))

export const PUT = fulfil('PUT /api/jobs/{job}/brought/{name}', async ({ db, path, query, request }) => {
  await requireOpenJob(db, path.job)
  await bringFile(path.job, path.name, query.path, request.body)
})

export const POST = fulfil('POST /api/jobs/{job}/brought/{name}', async ({ db, path }) => ({
  id: await addSource(db, path.job, broughtFolder(path.job, path.name)),
}))
