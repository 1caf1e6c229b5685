import { CATEGORY_IDS } from '@lumbrin/core/categories/types'
import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import {
  addMatching,
  addToTray,
  removeCategory,
  removeFromTray,
  removeMatching,
  type TrayChange,
  undoChange,
} from '../../../../database/tray.js'
import { bodyOf, requireId, route } from '../../../../server/respond.js'
import { forget } from '../../../../services/cached.js'
import { requireJob } from '../../../../services/jobs.js'
import { parseQuery } from '../../../../services/search.js'

const ids = z.array(z.number().int().positive()).max(10_000)
/** The address of a Findings view: all that it shows. */
const view = z.string().max(2000)
const schema = z.union([
  z.strictObject({ add: ids }),
  z.strictObject({ remove: ids }),
  z.strictObject({ removeCategory: z.enum(CATEGORY_IDS) }),
  z.strictObject({ addMatching: view }),
  z.strictObject({ removeMatching: view }),
  /** An earlier change. */
  z.strictObject({ undo: z.uuid() }),
])

export const POST = route(async ({ params, request }) => {
  const job = requireId(params.job)
  const change = await bodyOf(request, schema)
  await requireJob(database(), job)
  const answer = await perform(job, change)
  // Nothing is counted otherwise by it.
  forget(job, 'tray')
  return Response.json(answer)
})

const filterOf = (address: string) => parseQuery(new URLSearchParams(address)).filter

/** Null: an earlier change was undone. */
async function perform(job: number, change: z.infer<typeof schema>): Promise<TrayChange | null> {
  const db = database()
  if ('add' in change) return addToTray(db, job, change.add)
  if ('remove' in change) return removeFromTray(db, job, change.remove)
  if ('removeCategory' in change) return removeCategory(db, job, change.removeCategory)
  if ('addMatching' in change) return addMatching(db, job, filterOf(change.addMatching))
  if ('removeMatching' in change) return removeMatching(db, job, filterOf(change.removeMatching))
  await undoChange(db, job, change.undo)
  return null
}
