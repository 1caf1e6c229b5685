import { fulfil } from '../../../server/fulfil.js'
import { ownProfiles, saveProfile } from '../../../services/profiles.js'

export const GET = fulfil('GET /api/profiles', () => ownProfiles())

export const PUT = fulfil('PUT /api/profiles', ({ body }) => saveProfile(body.text))
