import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { openFindingContent } from '../../../../services/content.js'
import { thumbnailOf } from '../../../../services/thumbnails.js'

export const GET = route(async ({ params }) => {
  const { source } = await openFindingContent(database(), requireId(params.finding))
  const picture = await thumbnailOf(source)
  return new Response(picture as Uint8Array<ArrayBuffer>, {
    headers: { 'content-type': 'image/webp', 'cache-control': 'private, max-age=86400' },
  })
})
