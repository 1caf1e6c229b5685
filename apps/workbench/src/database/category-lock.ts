import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Knex } from 'knex'
import type { JobId } from '../domain/ids.js'
import { type Db, transactLatest } from './connection.js'

/**
 * A transaction that changes findings of one category of a job. Two such transactions run one after the other, so that the
 * second sees all that the first stored, also when several sources of the job are being read at once. Where the category is
 * known only inside a transaction, `lockCategory` is called in `transactLatest` before what will be changed is read.
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

/** Locks a category of a job until the transaction ends; waits while another transaction holds it. */
export async function lockCategory(trx: Db, jobId: JobId, category: CategoryId): Promise<void> {
  // Inserts the row, or updates it to what it is; either way InnoDB holds its exclusive lock.
  await trx('category_locks').insert({ job_id: jobId, category }).onConflict().merge(['category'])
}
