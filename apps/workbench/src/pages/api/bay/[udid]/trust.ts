import { database } from '../../../../database/connection.js'
import { done, requireText, route } from '../../../../server/respond.js'
import { askForTrust } from '../../../../services/bay.js'

export const POST = route(async ({ params }) => {
  await askForTrust(database(), requireText(params.udid))
  return done()
})
