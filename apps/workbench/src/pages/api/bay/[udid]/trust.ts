import { fulfil } from '../../../../server/fulfil.js'
import { askForTrust } from '../../../../services/bay.js'

export const POST = fulfil('POST /api/bay/{udid}/trust', ({ db, path }) => askForTrust(db, path.udid))
