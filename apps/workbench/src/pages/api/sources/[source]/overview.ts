import { fulfil } from '../../../../server/fulfil.js'
import { sourceOverview } from '../../../../services/contents.js'

export const GET = fulfil('GET /api/sources/{source}/overview', ({ db, path }) => sourceOverview(db, path.source))
