import { fulfil } from '../../../../../server/fulfil.js'
import { listFiles } from '../../../../../services/contents.js'

export const GET = fulfil('GET /api/sources/{source}/files', ({ db, path, query }) =>
  listFiles(db, path.source, query, query.words),
)
