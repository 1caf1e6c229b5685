import { fulfil } from '../../../../server/fulfil.js'
import { changeRules, versionedRules } from '../../../../services/bay-rules.js'

export const GET = fulfil('GET /api/bay/rules', ({ db }) => versionedRules(db))

export const PUT = fulfil('PUT /api/bay/rules', async ({ db, body, seen }) => {
  await changeRules(db, body, seen)
  return versionedRules(db)
})
