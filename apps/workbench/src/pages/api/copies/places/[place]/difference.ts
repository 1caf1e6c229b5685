import { fulfil } from '../../../../../server/fulfil.js'
import { compareCopies } from '../../../../../services/safe-copies.js'

export const GET = fulfil('GET /api/copies/places/{place}/difference', ({ db, path, query }) =>
  compareCopies(db, path.place, query.from, query.to),
)
