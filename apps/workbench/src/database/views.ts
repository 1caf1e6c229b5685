import type { Db } from './connection.js'

/** A Findings view that was kept under a name. */
export interface SavedView {
  id: number
  name: string
  /** The view's state, as it stands in the address. */
  address: string
}

export async function listViews(db: Db, jobId: number): Promise<SavedView[]> {
  return db('saved_views').where({ job_id: jobId }).orderBy('name').select('id', 'name', 'address')
}

/** Keeps a view; one of the same name is replaced. */
export async function saveView(db: Db, jobId: number, view: Omit<SavedView, 'id'>): Promise<void> {
  await db('saved_views')
    .insert({ job_id: jobId, ...view })
    .onConflict(['job_id', 'name'])
    .merge(['address'])
}

export async function deleteView(db: Db, jobId: number, id: number): Promise<void> {
  await db('saved_views').where({ job_id: jobId, id }).delete()
}
