import { fulfil } from '../../../../../server/fulfil.js'
import { sourceIntegrity } from '../../../../../services/contents.js'

export const GET = fulfil('GET /api/sources/{source}/integrity', ({ db, path }) => sourceIntegrity(db, path.source))
