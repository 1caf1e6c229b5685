import { fulfil } from '../../../../server/fulfil.js'
import { closeShare, openShare } from '../../../../services/share.js'

export const POST = fulfil('POST /api/jobs/{job}/share', ({ db, path }) => openShare(db, path.job))

export const DELETE = fulfil('DELETE /api/jobs/{job}/share', ({ db, path }) => closeShare(db, path.job))
