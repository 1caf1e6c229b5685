import { database } from '../../../../database/connection.js'
import { AppError } from '../../../../errors.js'
import { done, requireId, route } from '../../../../server/respond.js'
import { resumeRead, stopRead } from '../../../../services/sources.js'

const ACTIONS = new Map([
  ['stop', stopRead],
  ['resume', resumeRead],
])

export const POST = route(async ({ params }) => {
  const action = ACTIONS.get(params.action ?? '')
  if (!action) throw new AppError('not-found', 'There is no such action.')
  await action(database(), requireId(params.read))
  return done()
})
