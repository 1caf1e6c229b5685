import { CATEGORY_IDS } from '@lumbrin/core/categories/types'
import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { addToTray, removeCategory, removeFromTray, summariseTray } from '../../../../database/tray.js'
import { bodyOf, requireId, route } from '../../../../server/respond.js'
import { requireJob } from '../../../../services/jobs.js'

const ids = z.array(z.number().int().positive()).max(10_000).default([])
const schema = z.object({ add: ids, remove: ids, removeCategory: z.enum(CATEGORY_IDS).optional() })

export const POST = route(async ({ params, request }) => {
  const job = requireId(params.job)
  const change = await bodyOf(request, schema)
  await requireJob(database(), job)
  if (change.add.length > 0) await addToTray(database(), job, change.add)
  if (change.remove.length > 0) await removeFromTray(database(), job, change.remove)
  if (change.removeCategory) await removeCategory(database(), job, change.removeCategory)
  return Response.json(await summariseTray(database(), job))
})
