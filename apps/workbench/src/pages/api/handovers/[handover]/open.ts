import { database } from '../../../../database/connection.js'
import { done, requireId, route } from '../../../../server/respond.js'
import { openFolder } from '../../../../services/folders.js'
import { requireHandover } from '../../../../services/handovers.js'

export const POST = route(async ({ params }) => {
  const { destination } = await requireHandover(database(), requireId(params.handover))
  await openFolder(destination)
  return done()
})
