import type { Db } from '../database/connection.js'
import { deleteView, listViews, saveView } from '../database/views.js'
import { AppError } from '../domain/errors.js'
import type { JobId } from '../domain/ids.js'
import type { SavedView } from '../domain/job.js'
import { requireOpenJob } from './jobs.js'

export const savedViews = (db: Db, jobId: JobId): Promise<SavedView[]> => listViews(db, jobId)

/** Keeps a view under a name. @throws AppError('conflict') where another one has the name */
export async function keepView(db: Db, jobId: JobId, view: Omit<SavedView, 'id'>): Promise<SavedView[]> {
  await requireOpenJob(db, jobId)
  if (!(await saveView(db, jobId, view)))
    throw new AppError(
      'conflict',
      `Another view is named “${view.name}” already. Choose another name, or delete that one.`,
    )
  return listViews(db, jobId)
}

export async function forgetView(db: Db, jobId: JobId, id: number): Promise<SavedView[]> {
  await deleteView(db, jobId, id)
  return listViews(db, jobId)
}
