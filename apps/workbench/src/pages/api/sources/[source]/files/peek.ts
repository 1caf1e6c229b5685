import { fulfil } from '../../../../../server/fulfil.js'
import { peekFile } from '../../../../../services/contents.js'

export const GET = fulfil('GET /api/sources/{source}/files/peek', ({ db, path, query }) =>
  peekFile(db, path.source, query, query.table),
)
