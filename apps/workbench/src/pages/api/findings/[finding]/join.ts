import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { bodyOf, done, requireId, route } from '../../../../server/respond.js'
import { joinFindings } from '../../../../services/joining.js'

const schema = z.object({ other: z.number().int().positive() })

export const POST = route(async ({ params, request }) => {
  const { other } = await bodyOf(request, schema)
  await joinFindings(database(), requireId(params.finding), other)
  return done()
})
