import { fulfil } from '../../../../../server/fulfil.js'
import { integrityOf } from '../../../../../services/contents.js'

export const GET = fulfil('GET /api/sources/{source}/integrity/steps', ({ db, path }, signal) =>
  integrityOf(db, path.source, signal),
)
