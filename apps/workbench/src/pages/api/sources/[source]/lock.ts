import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { bodyOf, done, requireId, route } from '../../../../server/respond.js'
import { beginUnlock, forgetKeys, lockState } from '../../../../services/keyring.js'

const schema = z.object({ password: z.string().min(1, 'Type the password of the backup.').max(4096) })

export const GET = route(async ({ params }) => Response.json(lockState(requireId(params.source))))

export const POST = route(async ({ params, request }) => {
  const { password } = await bodyOf(request, schema)
  await beginUnlock(database(), requireId(params.source), password)
  return new Response(null, { status: 202 })
})

export const DELETE = route(async ({ params }) => {
  forgetKeys(requireId(params.source))
  return done()
})
