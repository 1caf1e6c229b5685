import { fulfil } from '../../../../server/fulfil.js'
import { purgeJob } from '../../../../services/purging.js'

export const POST = fulfil('POST /api/jobs/{job}/purge', ({ db, path, body }) => purgeJob(db, path.job, body.number))
