import type { JobId } from '../domain/ids.js'
import type { SavedView } from '../domain/job.js'
import type { Db } from './connection.js'

export async function listViews(db: Db, jobId: JobId): Promise<SavedView[]> {
  return db('saved_views').where({ job_id: jobId }).orderBy('name').select('id', 'name', 'address')
}

/** Keeps a view. @returns false where another one has that name, which stays */
export async function saveView(db: Db, jobId: JobId, { name, address }: Omit<SavedView, 'id'>): Promise<boolean> {
  await db('saved_views').insert({ job_id: jobId, name, address }).onConflict(['job_id', 'name']).ignore()
  const there = await db('saved_views').where({ job_id: jobId, name }).first('address')
  return there?.address === address
}

export async function deleteView(db: Db, jobId: JobId, id: number): Promise<void> {
  await db('saved_views').where({ job_id: jobId, id }).delete()
}
