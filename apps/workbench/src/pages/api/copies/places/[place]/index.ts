import { fulfil } from '../../../../../server/fulfil.js'
import { forgetPlace, placeContents } from '../../../../../services/safe-copies.js'

export const GET = fulfil('GET /api/copies/places/{place}', ({ db, path }) => placeContents(db, path.place))

export const DELETE = fulfil('DELETE /api/copies/places/{place}', ({ db, path }) => forgetPlace(db, path.place))
