import { z } from 'zod'
import { bodyOf, requireText, route } from '../../../../server/respond.js'
import { beginInstall } from '../../../../services/reviving.js'

const schema = z.object({ image: z.string().min(1), keep: z.boolean(), name: z.string().optional() })

export const POST = route(async ({ params, request }) => {
  const { image, keep, name } = await bodyOf(request, schema)
  await beginInstall(requireText(params.udid), image, keep, name)
  return new Response(null, { status: 202 })
})
