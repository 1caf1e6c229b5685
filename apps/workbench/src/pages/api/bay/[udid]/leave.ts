import { done, requireText, route } from '../../../../server/respond.js'
import { leaveRecovery } from '../../../../services/reviving.js'

export const POST = route(async ({ params }) => {
  await leaveRecovery(requireText(params.udid))
  return done()
})
