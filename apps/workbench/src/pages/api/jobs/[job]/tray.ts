import { CATEGORY_IDS } from '@lumbrin/core/categories/types'
import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import {
  type Added,
  addMatching,
  addToTray,
  removeAdded,
  removeCategory,
  removeFromTray,
  summariseTray,
  type TrayLine,
} from '../../../../database/tray.js'
import { bodyOf, requireId, route } from '../../../../server/respond.js'
import { forget } from '../../../../services/cached.js'
import { requireJob } from '../../../../services/jobs.js'
import { parseQuery } from '../../../../services/search.js'

const ids = z.array(z.number().int().positive()).max(10_000).default([])
const schema = z.object({
  add: ids,
  remove: ids,
  removeCategory: z.enum(CATEGORY_IDS).optional(),
  /** The address of a Findings view: all that it shows. */
  addMatching: z.string().max(2000).optional(),
  /** What an earlier `addMatching` put in. */
  removeAdded: z.uuid().optional(),
})

export const POST = route(async ({ params, request }) => {
  const job = requireId(params.job)
  const change = await bodyOf(request, schema)
  await requireJob(database(), job)
  const answer = await perform(job, change)
  forget(job)
  return Response.json(answer)
})

async function perform(job: number, change: z.infer<typeof schema>): Promise<Added | TrayLine[]> {
  if (change.add.length > 0) await addToTray(database(), job, change.add)
  if (change.remove.length > 0) await removeFromTray(database(), job, change.remove)
  if (change.removeAdded) await removeAdded(database(), job, change.removeAdded)
  if (change.addMatching !== undefined)
    return addMatching(database(), job, parseQuery(new URLSearchParams(change.addMatching)).filter)
  if (change.removeCategory) await removeCategory(database(), job, change.removeCategory)
  return summariseTray(database(), job)
}
