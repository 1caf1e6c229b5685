import { database } from '../../../../database/connection.js'
import { done, requireId, route } from '../../../../server/respond.js'
import { closeShare, openShare } from '../../../../services/share.js'

export const POST = route(async ({ params }) =>
  Response.json(await openShare(database(), requireId(params.job)), { headers: { 'cache-control': 'no-store' } }),
)

export const DELETE = route(async ({ params }) => {
  await closeShare(database(), requireId(params.job))
  return done()
})
