import { fulfil } from '../../../../server/fulfil.js'
import { resumeRead, stopRead } from '../../../../services/sources.js'

export const POST = fulfil('POST /api/reads/{read}/{action}', ({ db, path }) =>
  path.action === 'stop' ? stopRead(db, path.read) : resumeRead(db, path.read),
)
