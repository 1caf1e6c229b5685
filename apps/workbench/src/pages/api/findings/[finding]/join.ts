import { fulfil } from '../../../../server/fulfil.js'
import { joinFindings } from '../../../../services/joining.js'

export const POST = fulfil('POST /api/findings/{finding}/join', ({ db, path, body }) =>
  joinFindings(db, path.finding, body.other),
)
