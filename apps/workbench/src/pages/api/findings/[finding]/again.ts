import { fulfil } from '../../../../server/fulfil.js'
import { tryContentAgain } from '../../../../services/trying-again.js'

export const POST = fulfil('POST /api/findings/{finding}/again', ({ db, path }) => tryContentAgain(db, path.finding))
