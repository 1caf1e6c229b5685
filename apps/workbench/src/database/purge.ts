import type { Db } from './connection.js'
import { asJson } from './json.js'

// The job itself and its log stay as the record.
const KEPT = ['jobs', 'log', 'log_heads']
// A statement that deletes a million rows would hold them all back in one transaction.
const ROWS_AT_ONCE = 20_000

/** The tables that hold rows of a job: every one that names it, so that none added later is forgotten. */
async function tablesOf(db: Db): Promise<string[]> {
  const [rows] = await db.raw(
    "SELECT table_name AS name FROM information_schema.columns WHERE table_schema = DATABASE() AND column_name = 'job_id'",
  )
  return (rows as { name: string }[]).map(({ name }) => name).filter((name) => !KEPT.includes(name))
}

/** Rows of a job by table, as they are now. */
export async function countRows(db: Db, jobId: number): Promise<Record<string, number>> {
  const counts: Record<string, number> = {}
  for (const table of await tablesOf(db))
    counts[table] = Number((await db(table).where({ job_id: jobId }).count({ n: '*' }).first())?.n ?? 0)
  return counts
}

/** Marks a job as being purged; false: it is, or was, before. */
export async function beginPurge(db: Db, jobId: number): Promise<boolean> {
  return (
    (await db('jobs').where({ id: jobId }).whereNull('purge_began_at').update({ purge_began_at: new Date() })) === 1
  )
}

/** Jobs whose purge was begun and not finished. */
export const unfinishedPurges = (db: Db): Promise<number[]> =>
  db('jobs').whereNotNull('purge_began_at').whereNull('purged_at').pluck('id')

/**
 * Deletes all rows of a job, and the words of its log and brief. Tables are written anew after it, since rows that are
 * only deleted would still stand in their files.
 */
export async function purgeRows(db: Db, jobId: number): Promise<void> {
  const tables = await tablesOf(db)
  // What others point to goes last; a table that cannot go yet is tried again.
  for (let rounds = 0; rounds < tables.length; rounds++) for (const table of tables) await deleteAll(db, table, jobId)
  await db('log').where({ job_id: jobId }).update({ detail: '' })
  await db('jobs')
    .where({ id: jobId })
    .update({ owner: PURGED_OWNER, brief: asJson({ owner: PURGED_OWNER }), said: null })
  for (const table of [...tables, ...KEPT, 'read_steps']) await db.raw('OPTIMIZE TABLE ??', [table])
}

export const PURGED_OWNER = 'purged'

const REFERENCED = 1451

async function deleteAll(db: Db, table: string, jobId: number): Promise<void> {
  try {
    while ((await db(table).where({ job_id: jobId }).limit(ROWS_AT_ONCE).delete()) === ROWS_AT_ONCE);
  } catch (thrown) {
    if ((thrown as { errno?: number }).errno !== REFERENCED) throw thrown
  }
}

/** The record that is left. */
export async function endPurge(db: Db, jobId: number): Promise<void> {
  await db('jobs').where({ id: jobId }).update({ purged_at: new Date() })
}
