import { fulfil } from '../../../../../server/fulfil.js'
import { pageMap } from '../../../../../services/inside.js'

export const GET = fulfil('GET /api/sources/{source}/pages', ({ db, path, query }) =>
  pageMap(db, { sourceId: path.source, ...query }),
)
