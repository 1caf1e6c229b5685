import { fulfil } from '../../../../server/fulfil.js'
import { startHandover } from '../../../../services/handovers.js'

export const POST = fulfil('POST /api/jobs/{job}/handovers', async ({ db, path, body }) => {
  const { formats = {}, duplicates = 'once', partBytes, second, ...destination } = body
  return { id: await startHandover(db, path.job, destination, { formats, duplicates, partBytes, second }) }
})
