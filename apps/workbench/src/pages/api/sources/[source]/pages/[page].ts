import { fulfil } from '../../../../../server/fulfil.js'
import { pageView } from '../../../../../services/inside.js'

export const GET = fulfil('GET /api/sources/{source}/pages/{page}', ({ db, path, query }) => {
  const { file, offset, ...place } = query
  const at = file && offset !== undefined ? { file, offset } : undefined
  return pageView(db, { sourceId: path.source, ...place }, path.page, at)
})
