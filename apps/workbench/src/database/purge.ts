import { setTimeout as sleep } from 'node:timers/promises'
import type { JobId } from '../domain/ids.js'
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
export async function countRows(db: Db, jobId: JobId): Promise<Record<string, number>> {
  const counts: Record<string, number> = {}
  for (const table of await tablesOf(db))
    counts[table] = Number((await db(table).where({ job_id: jobId }).count({ n: '*' }).first())?.n ?? 0)
  return counts
}

/** Marks a job as being purged; false: it is, or was, before. */
export async function beginPurge(db: Db, jobId: JobId): Promise<boolean> {
  return (
    (await db('jobs').where({ id: jobId }).whereNull('purge_began_at').update({ purge_began_at: new Date() })) === 1
  )
}

/** Jobs whose purge was begun and not finished. */
export const unfinishedPurges = (db: Db): Promise<JobId[]> =>
  db('jobs').whereNotNull('purge_began_at').whereNull('purged_at').pluck('id')

/**
 * Deletes all rows of a job and the words of its log and brief, and makes the database overwrite what it deleted.
 * @returns true: none of its files holds those words; false: its log may, since the database is not our own
 */
export async function purgeRows(db: Db, jobId: JobId): Promise<boolean> {
  const tables = await tablesOf(db)
  // What others point to goes last; a table that cannot go yet is tried again.
  for (let rounds = 0; rounds < tables.length; rounds++) for (const table of tables) await deleteAll(db, table, jobId)
  await db('log').where({ job_id: jobId }).update({ detail: '' })
  await db('jobs')
    .where({ id: jobId })
    .update({ owner: PURGED_OWNER, brief: asJson({ owner: PURGED_OWNER }), said: null, device_time_zone: null })
  for (const table of (await overwritesDeleted(db)) ? await indexedByWords(db) : [...tables, ...KEPT, 'read_steps'])
    await db.raw('OPTIMIZE TABLE ??', [table])
  await waitForCleared(db)
  return writeNewLog(db)
}

const LONGEST_WAIT_MS = 10_000
const LOOK_MS = 100

/**
 * InnoDB takes deleted rows out of their pages, and overwrites them, some time after their deletion: what it has still to do
 * is the length of its history. Where others write all the time that never gets to nothing, and the wait ends.
 */
async function waitForCleared(db: Db): Promise<void> {
  for (const end = Date.now() + LONGEST_WAIT_MS; Date.now() < end; await sleep(LOOK_MS)) {
    const [[row]] = await db.raw("SHOW GLOBAL STATUS LIKE 'Innodb_history_list_length'")
    if (!row || Number(row.Value) === 0) return
  }
}

/** True where the database fills what is deleted with zeros; else tables have to be written anew. */
async function overwritesDeleted(db: Db): Promise<boolean> {
  const [[row]] = await db.raw("SHOW VARIABLES LIKE 'innodb_immediate_scrub_data_uncompressed'")
  return row?.Value === 'ON'
}

/** An index of words keeps those of deleted rows until its table is written anew. */
const indexedByWords = (db: Db): Promise<string[]> =>
  db('information_schema.statistics')
    .whereRaw('table_schema = DATABASE()')
    .where({ index_type: 'FULLTEXT' })
    .distinct()
    .pluck('table_name')

const NO_SUCH_PROCEDURE = 1305

/**
 * The database's log holds what was written, and its doublewrite buffer the pages that were written last: the log becomes
 * a new file, and the buffer is overwritten with pages of a table made for that. False: the log is not ours to write anew.
 */
async function writeNewLog(db: Db): Promise<boolean> {
  try {
    await db.raw('CREATE OR REPLACE TABLE filling (id INT PRIMARY KEY, bytes VARBINARY(4000) NOT NULL)')
    await db.raw("INSERT INTO filling SELECT seq, REPEAT('0', 4000) FROM seq_1_to_2000")
    await db.raw('CALL new_log()')
    // InnoDB writes a new page straight to its place: only from its second writing on does it pass the buffer.
    await db.raw("UPDATE filling SET bytes = REPEAT('1', 4000)")
    await db.raw('CALL new_log()')
    await db.raw('DROP TABLE filling')
    return true
  } catch (thrown) {
    if ((thrown as { errno?: number }).errno !== NO_SUCH_PROCEDURE) throw thrown
    await db.raw('DROP TABLE filling')
    return false
  }
}

export const PURGED_OWNER = 'purged'

const REFERENCED = 1451

async function deleteAll(db: Db, table: string, jobId: JobId): Promise<void> {
  try {
    while ((await db(table).where({ job_id: jobId }).limit(ROWS_AT_ONCE).delete()) === ROWS_AT_ONCE);
  } catch (thrown) {
    if ((thrown as { errno?: number }).errno !== REFERENCED) throw thrown
  }
}

/** The record that is left. */
export async function endPurge(db: Db, jobId: JobId): Promise<void> {
  await db('jobs').where({ id: jobId }).update({ purged_at: new Date() })
}
