import { fulfil } from '../../../../../server/fulfil.js'
import { addArchives, addLibrary, addSnapshot } from '../../../../../services/cloud.js'

export const POST = fulfil('POST /api/jobs/{job}/cloud/sources', async ({ db, path: { job }, body }) => {
  if ('snapshot' in body) return { id: await addSnapshot(db, job, body.snapshot) }
  if ('archivesOf' in body) return { id: await addArchives(db, job, body.archivesOf) }
  return { id: await addLibrary(db, job) }
})
