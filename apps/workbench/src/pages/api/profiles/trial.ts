import { z } from 'zod'
import { database } from '../../../database/connection.js'
import { bodyOf, route } from '../../../server/respond.js'
import { tryProfile } from '../../../services/profiles.js'

const body = z.object({ text: z.string().max(100_000), source: z.number().int().positive() })

export const POST = route(async ({ request }) => {
  const { text, source } = await bodyOf(request, body)
  return Response.json(await tryProfile(database(), source, text))
})
