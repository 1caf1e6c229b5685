import { database } from '../../database/connection.js'
import { bodyOf, done, route } from '../../server/respond.js'
import { changeSettings, settingsSchema } from '../../services/settings.js'

export const PUT = route(async ({ request }) => {
  await changeSettings(database(), await bodyOf(request, settingsSchema))
  return done()
})
