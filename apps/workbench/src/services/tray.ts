import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Db } from '../database/connection.js'
import {
  addMatches,
  addMatching,
  addPerson,
  addToTray,
  removeCategory,
  removeFromTray,
  removeMatching,
  undoChange,
} from '../database/tray.js'
import type { MatchKind } from '../domain/answer.js'
import { filterIn } from '../domain/filter.js'
import type { FindingId, JobId } from '../domain/ids.js'
import type { TrayChange } from '../domain/tray.js'
import { forget } from './cached.js'
import { requireJob } from './jobs.js'

/** A change of the tray: single findings, a category, all that a Findings view shows, or an earlier change undone. */
export type TrayWish =
  | { add: FindingId[] }
  | { remove: FindingId[] }
  | { removeCategory: CategoryId }
  | { addMatches: MatchKind }
  | { addMatching: string }
  | { removeMatching: string }
  | { addPerson: { name: string; lost: boolean; category: CategoryId | null } }
  | { undo: string }

/** Changes the tray. Null: an earlier change was undone. @throws AppError('not-found'), ZodError for the address of a view */
export async function changeTray(db: Db, jobId: JobId, wish: TrayWish): Promise<TrayChange | null> {
  const { timeZone } = await requireJob(db, jobId)
  const change = await perform(db, jobId, wish, timeZone)
  // Nothing else is counted anew for it.
  forget(jobId, 'tray')
  return change
}

async function perform(db: Db, jobId: JobId, wish: TrayWish, zone: string): Promise<TrayChange | null> {
  if ('add' in wish) return addToTray(db, jobId, wish.add)
  if ('remove' in wish) return removeFromTray(db, jobId, wish.remove)
  if ('removeCategory' in wish) return removeCategory(db, jobId, wish.removeCategory)
  if ('addMatches' in wish) return addMatches(db, jobId, wish.addMatches)
  if ('addMatching' in wish) return addMatching(db, jobId, filterIn(wish.addMatching, zone))
  if ('removeMatching' in wish) return removeMatching(db, jobId, filterIn(wish.removeMatching, zone))
  if ('addPerson' in wish) return addPerson(db, jobId, wish.addPerson)
  await undoChange(db, jobId, wish.undo)
  return null
}
