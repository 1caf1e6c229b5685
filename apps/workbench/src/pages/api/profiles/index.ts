import { fulfil } from '../../../server/fulfil.js'
import { saveProfile } from '../../../services/profiles.js'

export const PUT = fulfil('PUT /api/profiles', ({ body }) => saveProfile(body.text))
