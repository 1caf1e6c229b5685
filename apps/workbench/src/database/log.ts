import { digest } from '@lumbrin/core/io/hash'
import type { JobId } from '../domain/ids.js'
import type { LogEntry } from '../domain/job.js'
import { actingNow } from './acting.js'
import { type Db, transact } from './connection.js'

/** What the first entry of a job's log follows. */
export const BEGINNING = '0'.repeat(64)

const longest = { operator: 100 }

/** The hash of an entry: over the one before it and all that it says, so that none can be changed or taken out unseen. */
export const entryHash = (
  previous: string,
  { at, action, operator }: Omit<LogEntry, 'detail'>,
  detailHash: string,
): string => digest('sha256', JSON.stringify([previous, at.toISOString(), operator, action, detailHash]))

/** Adds an entry to a job's log, in the name of who works now. */
export async function appendLog(db: Db, jobId: JobId, action: string, detail: string): Promise<void> {
  await transact(db, async (trx) => {
    const head = (await headOf(trx, jobId)) ?? (await beginLog(trx, jobId))
    const entry = { at: new Date(), action, operator: actingNow().slice(0, longest.operator) }
    const detailHash = digest('sha256', detail)
    const hash = entryHash(head.hash, entry, detailHash)
    await trx('log').insert({ job_id: jobId, ...entry, detail, detail_hash: detailHash, hash })
    await trx('log_heads')
      .where({ job_id: jobId })
      .update({ entries: head.entries + 1, hash })
  })
}

const headOf = (trx: Db, jobId: JobId): Promise<LogHead | undefined> =>
  trx('log_heads').where({ job_id: jobId }).forUpdate().first('entries', 'hash')

/** Begins the log of a new job: its head is there before two can look for it at the same moment. */
export async function beginLog(trx: Db, jobId: JobId): Promise<LogHead> {
  const head = { entries: 0, hash: BEGINNING }
  await trx('log_heads').insert({ job_id: jobId, ...head })
  return head
}

/** A job's log, the newest entry first. */
export async function listLog(db: Db, jobId: JobId): Promise<LogEntry[]> {
  return db('log').where({ job_id: jobId }).orderBy('id', 'desc').select('at', 'action', 'detail', 'operator')
}

/** Names of those who are in any log. */
export const knownOperators = (db: Db): Promise<string[]> =>
  db('log').where('operator', '<>', '').distinct('operator').orderBy('operator').limit(100).pluck('operator')

/** The newest hash of a job's log, and how many entries lead to it. */
export interface LogHead {
  entries: number
  hash: string
}

export async function logHead(db: Db, jobId: JobId): Promise<LogHead> {
  const head = await db('log_heads').where({ job_id: jobId }).first('entries', 'hash')
  return head ?? { entries: 0, hash: BEGINNING }
}

/** What a check of a job's log found. */
export interface LogCheck extends LogHead {
  /** In words, one for each entry that is not as it was written, and for those that are gone. */
  wrong: string[]
}

const AT_ONCE = 5000

/** Computes a job's log anew, entry by entry. Details that a purge took away are known by their hash alone. */
export const checkLog = (db: Db, jobId: JobId): Promise<LogCheck> =>
  // One transaction sees one state, whatever is added meanwhile.
  transact(db, (trx) => checked(trx, jobId), { isolationLevel: 'repeatable read' })

async function checked(db: Db, jobId: JobId): Promise<LogCheck> {
  const head = await logHead(db, jobId)
  const purged = (await db('jobs').where({ id: jobId }).whereNotNull('purge_began_at').first('id')) !== undefined
  const wrong: string[] = []
  let previous = BEGINNING
  let count = 0
  for (let last = 0; ; ) {
    const rows = await db('log').where({ job_id: jobId }).where('id', '>', last).orderBy('id').limit(AT_ONCE)
    for (const row of rows) {
      count++
      const wiped = purged && row.detail === ''
      if (!wiped && digest('sha256', row.detail) !== row.detail_hash)
        wrong.push(`The details of entry ${count} (“${row.action}”) are not what was written.`)
      if (entryHash(previous, row, row.detail_hash) !== row.hash)
        wrong.push(`Entry ${count} (“${row.action}”) was changed, or one before it is gone.`)
      previous = row.hash
    }
    if (rows.length < AT_ONCE) break
    last = rows.at(-1)?.id ?? last
  }
  if (count !== head.entries) wrong.push(`${head.entries} entries were written, and ${count} are there.`)
  else if (previous !== head.hash) wrong.push('The newest entry is not the one that was written last.')
  return { ...head, wrong }
}
