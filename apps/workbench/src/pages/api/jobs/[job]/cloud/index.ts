import { fulfil } from '../../../../../server/fulfil.js'
import { cloudState, confirmCloud, signInToCloud, signOutOfCloud } from '../../../../../services/cloud.js'
import { requireOpenJob } from '../../../../../services/jobs.js'

export const GET = fulfil('GET /api/jobs/{job}/cloud', ({ path }) => cloudState(path.job))

export const POST = fulfil('POST /api/jobs/{job}/cloud', async ({ db, path, body }) => {
  await requireOpenJob(db, path.job)
  if ('code' in body) await confirmCloud(db, path.job, body.code)
  else await signInToCloud(path.job, body.account, body.password)
  return cloudState(path.job)
})

export const DELETE = fulfil('DELETE /api/jobs/{job}/cloud', ({ db, path }) => signOutOfCloud(db, path.job))
