import { z } from 'zod'
import { database } from '../../../../../database/connection.js'
import { bodyOf, requireId, requireText, route } from '../../../../../server/respond.js'
import { previewReturn, returnTray } from '../../../../../services/returning.js'

const schema = z.object({
  udid: z.string().min(1).max(64),
  /** The device's name, as it was confirmed. */
  confirmed: z.string().min(1).max(200),
})

export const GET = route(async ({ params, url }) =>
  Response.json(
    await previewReturn(database(), requireId(params.job), requireText(url.searchParams.get('udid') ?? undefined)),
  ),
)

export const POST = route(async ({ params, request }) => {
  const { udid, confirmed } = await bodyOf(request, schema)
  return Response.json({ count: await returnTray(database(), requireId(params.job), udid, confirmed) })
})
