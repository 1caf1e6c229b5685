import { fulfil } from '../../../../../server/fulfil.js'
import { previewReturn } from '../../../../../services/returning.js'

export const GET = fulfil('GET /api/jobs/{job}/returns/preview', ({ db, path, query }) =>
  previewReturn(db, path.job, query.udid),
)
