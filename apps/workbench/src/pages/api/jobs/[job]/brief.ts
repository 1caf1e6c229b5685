import { database } from '../../../../database/connection.js'
import { bodyOf, done, requireId, route } from '../../../../server/respond.js'
import { briefSchema } from '../../../../services/brief.js'
import { changeBrief } from '../../../../services/jobs.js'

export const PUT = route(async ({ params, request }) => {
  await changeBrief(database(), requireId(params.job), await bodyOf(request, briefSchema))
  return done()
})
