import { fulfil } from '../../../../server/fulfil.js'
import { copiesOf } from '../../../../services/copies.js'

export const GET = fulfil('GET /api/findings/{finding}/copies', ({ db, path }) => copiesOf(db, path.finding))
