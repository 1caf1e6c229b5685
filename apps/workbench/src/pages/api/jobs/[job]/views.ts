import { fulfil } from '../../../../server/fulfil.js'
import { forgetView, keepView, savedViews } from '../../../../services/views.js'

export const GET = fulfil('GET /api/jobs/{job}/views', ({ db, path }) => savedViews(db, path.job))

export const POST = fulfil('POST /api/jobs/{job}/views', ({ db, path, body }) => keepView(db, path.job, body))

export const DELETE = fulfil('DELETE /api/jobs/{job}/views', ({ db, path, body }) => forgetView(db, path.job, body.id))
