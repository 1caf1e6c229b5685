import { fulfil } from '../../../server/fulfil.js'
import { removeProfile } from '../../../services/profiles.js'

export const DELETE = fulfil('DELETE /api/profiles/{profile}', ({ path }) => removeProfile(path.profile))
