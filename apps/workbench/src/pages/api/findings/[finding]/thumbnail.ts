import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { openFindingContent } from '../../../../services/content.js'
import { EDGES, pictureOf } from '../../../../services/thumbnails.js'

/** A small picture; with `?size=large` one that fills the window, whatever format the original has. */
export const GET = route(async ({ params, url, request }) => {
  const id = requireId(params.finding)
  const edge = url.searchParams.get('size') === 'large' ? EDGES.large : EDGES.tile
  const open = async () => (await openFindingContent(database(), id)).source
  const picture = await pictureOf(`finding ${id}`, open, edge, request.signal)
  return new Response(picture as Uint8Array<ArrayBuffer>, {
    headers: { 'content-type': 'image/webp' },
  })
})
