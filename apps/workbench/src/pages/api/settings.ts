import { fulfil } from '../../server/fulfil.js'
import { changeSettings, versionedSettings } from '../../services/settings.js'

export const GET = fulfil('GET /api/settings', ({ db }) => versionedSettings(db))

export const PUT = fulfil('PUT /api/settings', async ({ db, body, seen }) => {
  await changeSettings(db, body, seen)
  return versionedSettings(db)
})
