import { database } from '../../../../database/connection.js'
import { AppError } from '../../../../errors.js'
import { requireId, route } from '../../../../server/respond.js'
import { zipOfFolder } from '../../../../server/zip.js'
import { requireHandover } from '../../../../services/handovers.js'

export const GET = route(async ({ params }) => {
  const handover = await requireHandover(database(), requireId(params.handover))
  if (handover.state !== 'done') throw new AppError('conflict', 'This handover is not finished.')
  return new Response(await zipOfFolder(handover.destination), {
    headers: {
      'content-type': 'application/zip',
      'content-disposition': `attachment; filename="handover-${handover.id}.zip"`,
      'cache-control': 'no-store',
    },
  })
})
