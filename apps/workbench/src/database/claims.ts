import type { Knex } from 'knex'
import type { CopyTaskId, HandoverId, ReadId } from '../domain/ids.js'
import { type Db, transactLatest } from './connection.js'
import { asId } from './json.js'
import type { Claimable } from './tables.js'

/** Kinds of work that the background process takes from the database. */
export interface WorkId {
  reads: ReadId
  handovers: HandoverId
  copy_tasks: CopyTaskId
}
export type WorkTable = keyof WorkId
const WORK_TABLES: readonly WorkTable[] = ['reads', 'handovers', 'copy_tasks']

// A worker says every few seconds that it lives; one that has been silent this long is taken for dead.
const SILENT_SECONDS = 20

/**
 * Claims the oldest piece of work that waits, or whose worker died. SKIP LOCKED lets several workers, on one
 * computer or more, claim at the same time without ever getting the same piece. What somebody wants stopped still is:
 * whoever takes it over ends it.
 */
export async function claimWork<T extends WorkTable>(db: Db, table: T, worker: string): Promise<WorkId[T] | undefined> {
  return transactLatest(db, async (trx) => {
    const row = await waiting(trx, table).forUpdate().skipLocked().first('id')
    if (!row || (table === 'reads' && !(await hasDeviceForItself(trx, asId<ReadId>(row.id))))) return undefined
    const started = table === 'reads' ? { started_at: trx.raw('COALESCE(started_at, UTC_TIMESTAMP(3))') } : {}
    const state = trx.raw("IF(state = 'stopping', 'stopping', 'running')")
    await trx<Claimable>(table)
      .where({ id: row.id })
      .update({ state, claimed_by: worker, heartbeat_at: trx.raw('UTC_TIMESTAMP(3)'), ...started })
    return asId<WorkId[T]>(row.id)
  })
}

/** The piece of work that `claimWork` would claim. */
export async function nextWork<T extends WorkTable>(db: Db, table: T): Promise<WorkId[T] | undefined> {
  const row = await waiting(db, table).first('id')
  return row && asId<WorkId[T]>(row.id)
}

/** Work that is queued, or claimed by a worker that has been silent too long; the oldest first. */
const waiting = (db: Db, table: WorkTable) => {
  const due = db<Claimable>(table).where((one) =>
    one
      .where({ state: 'queued' })
      .orWhere((dead) =>
        dead
          .whereIn('state', ['running', 'stopping'])
          .andWhereRaw(`heartbeat_at < UTC_TIMESTAMP(3) - INTERVAL ${SILENT_SECONDS} SECOND`),
      ),
  )
  if (table === 'reads') due.whereNotExists(readsOfSameDevice(db, db.ref('reads.id')))
  return due.orderBy('id')
}

const UNIQUE_ID = "JSON_VALUE(info, '$.uniqueId')"

/** Other reads that are going on of the attached device which a read is of. A device serves one read at a time. */
const readsOfSameDevice = (db: Db, id: Knex.Ref<string, { [alias: string]: string }> | ReadId) =>
  db
    .from('reads as own')
    .where('own.id', id)
    .join('sources as source', 'source.id', 'own.source_id')
    .where('source.kind', 'device')
    .join('sources as other', (join) =>
      join
        .on('other.kind', 'source.kind')
        .on(db.raw("JSON_VALUE(other.info, '$.uniqueId') = JSON_VALUE(source.info, '$.uniqueId')")),
    )
    .join('reads as going', 'going.source_id', 'other.id')
    .whereIn('going.state', ['running', 'stopping'])
    .whereRaw('going.id <> own.id')
    .select('going.id')

/**
 * Whether no other read of the same device is going on. Locks the device's rows until the transaction ends, so that of two
 * workers which claim reads of one device at the same moment the second sees what the first has claimed.
 */
async function hasDeviceForItself(trx: Db, id: ReadId): Promise<boolean> {
  const own = trx('reads').join('sources', 'sources.id', 'reads.source_id').where('reads.id', id)
  const source = await own.first('sources.kind', trx.raw(`${UNIQUE_ID} AS unique_id`))
  if (source?.kind !== 'device') return true
  await trx('sources')
    .where({ kind: 'device' })
    .whereRaw(`${UNIQUE_ID} = ?`, [source.unique_id])
    .forUpdate()
    .select('id')
  return (await readsOfSameDevice(trx, id).first()) === undefined
}

/** The ids of the work that a worker has claimed and not ended. */
export async function claimedBy<T extends WorkTable>(db: Db, table: T, worker: string): Promise<WorkId[T][]> {
  const ids = await db<Claimable>(table)
    .where({ claimed_by: worker })
    .whereIn('state', ['running', 'stopping'])
    .pluck('id')
  return ids.map(asId<WorkId[T]>)
}

/** Says that the worker lives. */
export async function beat<T extends WorkTable>(db: Db, table: T, id: WorkId[T]): Promise<void> {
  await db<Claimable>(table)
    .where({ id })
    .update({ heartbeat_at: db.raw('UTC_TIMESTAMP(3)') })
}

/** Gives back the work of processes on this computer that are gone, so that it goes on at once. */
export async function releaseDead(db: Db, host: string, isAlive: (pid: number) => boolean): Promise<void> {
  for (const table of WORK_TABLES) {
    const workers: (string | null)[] = await db<Claimable>(table)
      .whereIn('state', ['running', 'stopping'])
      .where('claimed_by', 'like', `${host}:%`)
      .distinct()
      .pluck('claimed_by')
    for (const worker of workers)
      if (worker !== null && !isAlive(Number(worker.split(':').at(-1)))) await release(db, table, worker)
  }
}

/** Gives back what a worker had when it lost the database. */
export async function releaseOwn(db: Db, worker: string): Promise<void> {
  for (const table of WORK_TABLES) await release(db, table, worker)
}

async function release(db: Db, table: WorkTable, worker: string): Promise<void> {
  await db<Claimable>(table)
    .where({ claimed_by: worker, state: 'running' })
    .update({ claimed_by: null, state: 'queued' })
  // Silent for long: whoever looks for work takes it over at once, and ends it.
  await db<Claimable>(table)
    .where({ claimed_by: worker, state: 'stopping' })
    .update({ claimed_by: null, heartbeat_at: db.raw('UTC_TIMESTAMP(3) - INTERVAL 1 DAY') })
}

/** Who asked for a piece of work; an empty text: nobody said. */
export async function askedBy<T extends WorkTable>(db: Db, table: T, id: WorkId[T]): Promise<string> {
  return (await db<Claimable>(table).where({ id }).first('operator'))?.operator ?? ''
}
