import { join } from 'node:path'
import { digest } from '@lumbrin/core/io/hash'
import type { CopyPlace, CopyResult, CopyTask, CopyTaskState, CopyWork } from '../domain/copies.js'
import type { CopyPlaceId, CopyTaskId, JobId, RegularCopyId } from '../domain/ids.js'
import { actingNow } from './acting.js'
import { type Db, transact } from './connection.js'
import { asId, asJson, parsed } from './json.js'
import { fromStored, toStored } from './places.js'
import { moveSources } from './sources.js'
import type { CopyTasksTable } from './tables.js'

/** A place as it is known, whether it is there now or not. */
export type KnownPlace = Pick<CopyPlace, 'id' | 'path'>

export async function listPlaces(db: Db): Promise<KnownPlace[]> {
  const rows = await db('copy_places').orderBy('id').select('id', 'path')
  return rows.map(({ id, path }) => ({ id, path: fromStored(path) }))
}

/** Adds a place, or gives the one that is known by this path. */
export async function insertPlace(db: Db, path: string): Promise<CopyPlaceId> {
  const stored = toStored(path)
  const path_hash = digest('sha256', stored)
  await db('copy_places').insert({ path: stored, path_hash }).onConflict().ignore()
  return asId<CopyPlaceId>((await db('copy_places').where({ path_hash }).first('id'))?.id)
}

/** Stores the new folder of a place that was moved, and of the sources that are copies in it. */
export async function movePlace(db: Db, from: string, to: string): Promise<void> {
  await transact(db, async (trx) => {
    const place = await trx('copy_places')
      .where({ path_hash: digest('sha256', toStored(from)) })
      .first('id')
    await trx('copy_places')
      .where({ id: asId<CopyPlaceId>(place?.id) })
      .update({ path: toStored(to), path_hash: digest('sha256', toStored(to)) })
    await moveSources(trx, join(from, 'copies'), join(to, 'copies'))
  })
}

export async function deletePlace(db: Db, id: CopyPlaceId): Promise<void> {
  await db('copy_places').where({ id }).delete()
}

const toTask = (raw: CopyTasksTable): CopyTask => ({
  id: raw.id,
  place: raw.place_id,
  work: parsed(raw.work),
  about: raw.about,
  job: raw.job_id,
  state: raw.state,
  done: raw.done,
  total: raw.total,
  result: parsed(raw.result),
  error: raw.error,
  createdAt: raw.created_at,
  endedAt: raw.ended_at,
})

export async function insertTask(
  db: Db,
  place: CopyPlaceId,
  work: CopyWork,
  of: { jobId: JobId | null; about: string; regular?: RegularCopyId } | null,
): Promise<CopyTaskId> {
  const [id] = await db('copy_tasks').insert({
    place_id: place,
    job_id: of?.jobId ?? null,
    about: of?.about ?? null,
    regular_id: of?.regular ?? null,
    work: asJson(work),
    state: 'queued',
    operator: actingNow(),
    created_at: new Date(),
  })
  return asId<CopyTaskId>(id)
}

const MOST_TASKS = 12

/** What is at work and waits, and what ended last; the newest first. */
export async function listTasks(db: Db): Promise<CopyTask[]> {
  const waiting = await db('copy_tasks').whereIn('state', ['queued', 'running', 'stopping']).orderBy('id', 'desc')
  const ended = await db('copy_tasks')
    .whereNotIn('state', ['queued', 'running', 'stopping'])
    .orderBy('id', 'desc')
    .limit(MOST_TASKS)
  return [...waiting, ...ended].map(toTask)
}

export async function findTask(db: Db, id: CopyTaskId): Promise<CopyTask | undefined> {
  const raw = await db('copy_tasks').where({ id }).first()
  return raw && toTask(raw)
}

/** Checks of a place that ended well, the oldest first. */
export async function checksIn(db: Db, place: CopyPlaceId): Promise<CopyTask[]> {
  const rows = await db('copy_tasks').where({ place_id: place, state: 'done' }).orderBy('id')
  return rows.map(toTask).filter(({ result }) => result?.kind === 'check')
}

export async function noteTask(db: Db, id: CopyTaskId, progress: Pick<CopyTask, 'done' | 'total'>): Promise<void> {
  await db('copy_tasks').where({ id }).update(progress)
}

/** Moves a task on, if it is in one of these states. False: it is not. */
export async function moveTask(
  db: Db,
  id: CopyTaskId,
  from: readonly CopyTaskState[],
  to: CopyTaskState,
): Promise<boolean> {
  const ended = to === 'stopped' ? { ended_at: new Date() } : {}
  const changed = await db('copy_tasks')
    .where({ id })
    .whereIn('state', [...from])
    .update({ state: to, ...ended, ...(to === 'queued' ? { claimed_by: null } : {}) })
  return changed === 1
}

export async function endTask(db: Db, id: CopyTaskId, end: { result: CopyResult } | { error: string }): Promise<void> {
  await db('copy_tasks')
    .where({ id })
    .update({
      ...('result' in end
        ? { state: 'done' as const, result: asJson(end.result), error: null }
        : { state: 'failed' as const, error: end.error }),
      ended_at: new Date(),
    })
}
