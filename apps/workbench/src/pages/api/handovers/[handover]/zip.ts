import { fulfil } from '../../../../server/fulfil.js'
import { zipOfFolder } from '../../../../server/zip.js'
import { requireFinishedHandover } from '../../../../services/handovers.js'

export const GET = fulfil('GET /api/handovers/{handover}/zip', async ({ db, path }) => {
  const { id, destination } = await requireFinishedHandover(db, path.handover)
  const headers = {
    'content-type': 'application/zip',
    'content-disposition': `attachment; filename="handover-${id}.zip"`,
  }
  return new Response(await zipOfFolder(destination), { headers })
})
