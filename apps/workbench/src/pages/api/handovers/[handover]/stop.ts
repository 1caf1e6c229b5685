import { database } from '../../../../database/connection.js'
import { done, requireId, route } from '../../../../server/respond.js'
import { stopHandover } from '../../../../services/handovers.js'

export const POST = route(async ({ params }) => {
  await stopHandover(database(), requireId(params.handover))
  return done()
})
