import { z } from 'zod'
import { bodyOf, route } from '../../../server/respond.js'
import { saveProfile } from '../../../services/profiles.js'

const body = z.object({ text: z.string().max(100_000) })

export const PUT = route(async ({ request }) => Response.json(await saveProfile((await bodyOf(request, body)).text)))
