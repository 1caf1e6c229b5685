import { fulfil } from '../../../../server/fulfil.js'
import { openFolder } from '../../../../services/folders.js'
import { requireHandover } from '../../../../services/handovers.js'

export const POST = fulfil('POST /api/handovers/{handover}/open', async ({ db, path }) => {
  const { destination } = await requireHandover(db, path.handover)
  await openFolder(destination)
})
