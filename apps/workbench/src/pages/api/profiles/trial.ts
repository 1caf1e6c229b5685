import { fulfil } from '../../../server/fulfil.js'
import { tryProfile } from '../../../services/profiles.js'

export const POST = fulfil('POST /api/profiles/trial', ({ db, body }) => tryProfile(db, body.source, body.text))
