import type { BayAct, BayEvent } from '../domain/bay-rules.js'
import type { JobId, ReadId } from '../domain/ids.js'
import type { Db } from './connection.js'
import type { BayEventsTable } from './tables.js'

const MOST = 20

/** What was done with devices lately, the newest first; those that were only there are left out. */
export async function listBayEvents(db: Db): Promise<BayEvent[]> {
  const rows = await db('bay_events')
    .leftJoin('reads', 'reads.id', 'bay_events.read_id')
    .whereNotIn('act', ['there', 'nothing'])
    .orderBy('bay_events.id', 'desc')
    .limit(MOST)
    .select('bay_events.*', 'reads.state as read_state')
  return rows.map((row: BayEventsTable & { read_state: BayEvent['readState'] }) => ({
    id: row.id,
    udid: row.udid,
    name: row.name,
    act: row.act,
    said: row.said,
    jobId: row.job_id,
    readId: row.read_id,
    readState: row.read_state,
    cameAt: row.came_at,
    goneAt: row.gone_at,
  }))
}

/** How a device that is there now was dealt with; undefined: it was not yet. */
export async function presentEvent(db: Db, udid: string): Promise<{ id: number; act: BayAct } | undefined> {
  return db('bay_events').where({ udid }).whereNull('gone_at').orderBy('id', 'desc').first('id', 'act')
}

/** Notes that a device was plugged in. */
export async function insertBayEvent(
  db: Db,
  { udid, name, act, said }: Pick<BayEvent, 'udid' | 'name' | 'act' | 'said'>,
): Promise<number> {
  const [id] = await db('bay_events').insert({ udid, name, act, said, came_at: new Date() })
  return id as number
}

/** What came of it. */
export interface BayOutcome {
  act: BayAct
  said: string
  jobId?: JobId
  readId?: ReadId
}

export async function updateBayEvent(db: Db, id: number, { act, said, jobId, readId }: BayOutcome): Promise<void> {
  await db('bay_events')
    .where({ id })
    .update({ act, said, job_id: jobId ?? null, read_id: readId ?? null })
}

/** Notes that all devices but these are gone: when one of them comes again, it is dealt with again. */
export async function markGone(db: Db, present: readonly string[]): Promise<void> {
  await db('bay_events')
    .whereNull('gone_at')
    .whereNotIn('udid', [...present])
    .update({ gone_at: new Date() })
}
