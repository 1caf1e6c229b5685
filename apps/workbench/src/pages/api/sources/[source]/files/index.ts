import { z } from 'zod'
import { database } from '../../../../../database/connection.js'
import { requireId, route } from '../../../../../server/respond.js'
import { listFiles } from '../../../../../services/contents.js'

const schema = z.object({
  domain: z.string().default(''),
  folder: z.string().default(''),
  words: z.string().max(200).default(''),
})

export const GET = route(async ({ params, url }) => {
  const { words, ...place } = schema.parse(Object.fromEntries(url.searchParams))
  return Response.json(await listFiles(database(), requireId(params.source), place, words))
})
