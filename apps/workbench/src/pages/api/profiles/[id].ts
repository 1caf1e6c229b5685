import { done, route } from '../../../server/respond.js'
import { removeProfile } from '../../../services/profiles.js'

export const DELETE = route(async ({ params }) => {
  await removeProfile(params.id ?? '')
  return done()
})
