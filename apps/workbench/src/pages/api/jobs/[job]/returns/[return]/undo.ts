import { database } from '../../../../../../database/connection.js'
import { done, requireId, route } from '../../../../../../server/respond.js'
import { undoReturn } from '../../../../../../services/returning.js'

export const POST = route(async ({ params }) => {
  await undoReturn(database(), requireId(params.job), requireId(params.return))
  return done()
})
