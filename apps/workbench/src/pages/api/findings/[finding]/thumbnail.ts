import { fulfil } from '../../../../server/fulfil.js'
import { openFindingContent } from '../../../../services/content.js'
import { EDGES, pictureOf } from '../../../../services/thumbnails.js'

export const GET = fulfil('GET /api/findings/{finding}/thumbnail', async ({ db, path, query, request }) => {
  const open = async () => (await openFindingContent(db, path.finding)).source
  const picture = await pictureOf(`finding ${path.finding}`, open, EDGES[query.size], request.signal)
  return new Response(picture, { headers: { 'content-type': 'image/webp' } })
})
