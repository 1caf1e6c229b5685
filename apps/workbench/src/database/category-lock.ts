import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Knex } from 'knex'
import type { JobId } from '../domain/ids.js'
import { type Db, transact } from './connection.js'

// Each statement sees what others have committed by then, as the rows do that are looked at once the lock is held.
const LATEST: Knex.TransactionConfig = { isolationLevel: 'read committed' }

/**
 * A transaction that changes findings of a category of a job. Two of them follow each other, so that each works with all that
 * the one before stored: sources of one job are read side by side.
 */
export const transactInCategory = <T>(
  db: Db,
  { jobId, category }: { jobId: JobId; category: CategoryId },
  work: (trx: Knex.Transaction) => Promise<T>,
): Promise<T> =>
  transactLatest(db, async (trx) => {
    await lockCategory(trx, jobId, category)
    return work(trx)
  })

/** The same where the category shows only inside: `lockCategory` is called there before anything is changed. */
export const transactLatest = <T>(db: Db, work: (trx: Knex.Transaction) => Promise<T>): Promise<T> =>
  transact(db, work, LATEST)

/** Waits for whoever changes findings of the category, and keeps others from it until the transaction ends. */
export async function lockCategory(trx: Db, jobId: JobId, category: CategoryId): Promise<void> {
  // Makes the row or changes nothing in it; either way the row is locked.
  await trx('category_locks').insert({ job_id: jobId, category }).onConflict().merge(['category'])
}
