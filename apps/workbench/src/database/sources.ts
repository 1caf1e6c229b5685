import { sep } from 'node:path'
import type { SourceInfo } from '@lumbrin/core/backup/types'
import type { ReadStep } from '@lumbrin/core/categories/read'
import type { StepAccount } from '@lumbrin/core/categories/step-account'
import type { CollectProgress } from '@lumbrin/core/collected/collector'
import type { Warning } from '@lumbrin/core/io/errors'
import { digest } from '@lumbrin/core/io/hash'
import type { JobId, ReadId, SourceId } from '../domain/ids.js'
import type { ReadState } from '../domain/read-states.js'
import type { Read, Source } from '../domain/source.js'
import { actingNow } from './acting.js'
import { type Db, transact } from './connection.js'
import { asId, asJson, parsed } from './json.js'
import { fromStored, toStored } from './places.js'
import type { ReadsTable, SourcesTable } from './tables.js'

function toSource(raw: SourcesTable): Source {
  const path = fromStored(raw.path)
  const info = parsed<Source['info']>(raw.info)
  return {
    id: raw.id,
    jobId: raw.job_id,
    path,
    info: { ...info, path, deviceName: raw.said_name ?? info.deviceName },
    takenAt: raw.taken_at,
    bytes: Number(raw.bytes),
    files: raw.files,
    saidDevice: raw.said_device,
    saidName: raw.said_name,
  }
}

/**
 * Adds a source to a job. Undefined: the job has it already. `state` tells apart states that lay in one place, one after
 * the other.
 */
export async function insertSource(
  db: Db,
  jobId: JobId,
  info: SourceInfo,
  size: { bytes: number; files: number },
  state = '',
): Promise<SourceId | undefined> {
  const { takenAt, ...rest } = info
  const [id] = await db('sources')
    .insert({
      job_id: jobId,
      kind: info.kind,
      path: toStored(info.path),
      path_hash: digest('sha256', `${info.path}${state}`),
      info: asJson({ ...rest, path: toStored(info.path) }),
      taken_at: takenAt,
      ...size,
      added_at: new Date(),
    })
    .onConflict()
    .ignore()
  return id ? asId<SourceId>(id) : undefined
}

export async function listSources(db: Db, jobId: JobId): Promise<Source[]> {
  return (await db('sources').where({ job_id: jobId }).whereNull('removed_at').orderBy('id')).map(toSource)
}

/** The sources of all jobs, with their job's number. */
export async function listAllSources(db: Db): Promise<(Source & { jobNumber: string })[]> {
  const raws = await db('sources')
    .join('jobs', 'jobs.id', 'sources.job_id')
    .whereNull('removed_at')
    .orderBy('sources.id')
    .select('sources.*', 'jobs.number as job_number')
  return raws.map((raw) => ({ ...toSource(raw), jobNumber: raw.job_number }))
}

export async function findSource(db: Db, id: SourceId): Promise<Source | undefined> {
  const raw = await db('sources').where({ id }).whereNull('removed_at').first()
  return raw && toSource(raw)
}

/** Keeps what a source is now: a device goes on being used, and what was fetched of it grows. */
export async function updateSource(
  db: Db,
  id: SourceId,
  { takenAt, ...info }: SourceInfo,
  size: { bytes: number; files: number },
): Promise<void> {
  await db('sources')
    .where({ id })
    .update({ info: asJson({ ...info, path: toStored(info.path) }), taken_at: takenAt, ...size })
}

/** Changes the stored path of each source that lies below a folder which was moved. */
export async function moveSources(db: Db, from: string, to: string): Promise<void> {
  const raws = await db('sources').whereNull('removed_at')
  for (const { id, path: stored, info } of raws) {
    const path = fromStored(stored)
    if (!path.startsWith(from + sep)) continue
    const moved = to + path.slice(from.length)
    await db('sources')
      .where({ id })
      .update({
        path: toStored(moved),
        path_hash: digest('sha256', moved),
        info: asJson({ ...parsed<Source['info']>(info), path: toStored(moved) }),
      })
  }
}

/** Says what the technician calls a source; null: as it calls itself. */
export async function sayName(db: Db, id: SourceId, name: string | null): Promise<void> {
  await db('sources').where({ id }).update({ said_name: name })
}

/** Queues a read with its steps. */
export async function insertRead(
  db: Db,
  source: Source,
  steps: readonly ReadStep[],
  { mode = 'read', enough = null }: Partial<Pick<Read, 'mode' | 'enough'>> = {},
): Promise<ReadId> {
  return transact(db, async (trx) => {
    const [inserted] = await trx('reads').insert({
      job_id: source.jobId,
      source_id: source.id,
      state: 'queued',
      mode,
      enough,
      operator: actingNow(),
      queued_at: new Date(),
      warnings: '[]',
    })
    const id = asId<ReadId>(inserted)
    if (steps.length === 0) return id
    await trx('read_steps').insert(
      steps.map((step, position) => ({ read_id: id, position, category: step.category, pass: step.pass })),
    )
    return id
  })
}

/** Reads of a job with their steps, newest first. */
export async function listReads(db: Db, jobId: JobId): Promise<Read[]> {
  const raws = await db('reads').where({ job_id: jobId }).orderBy('id', 'desc')
  return withSteps(db, raws)
}

export async function findRead(db: Db, id: ReadId): Promise<Read | undefined> {
  const [read] = await withSteps(db, await db('reads').where({ id }))
  return read
}

async function withSteps(db: Db, raws: readonly ReadsTable[]): Promise<Read[]> {
  const steps = await db('read_steps')
    .whereIn(
      'read_id',
      raws.map((raw) => raw.id),
    )
    .orderBy('position')
  return raws.map((raw) => ({
    id: raw.id,
    jobId: raw.job_id,
    sourceId: raw.source_id,
    state: raw.state,
    mode: raw.mode,
    enough: raw.enough,
    waitsFor: raw.waits_for,
    queuedAt: raw.queued_at,
    startedAt: raw.started_at,
    endedAt: raw.ended_at,
    error: raw.error,
    warnings: parsed(raw.warnings),
    fetching: raw.fetching === null ? null : parsed(raw.fetching),
    steps: steps
      .filter((step) => step.read_id === raw.id)
      .map(({ id, position, category, pass, done, finished, account }) => ({
        id,
        position,
        category,
        pass,
        done,
        finished: Boolean(finished),
        account: account === null ? null : parsed<StepAccount>(account),
      })),
  }))
}

/** Says of a read that ended whether anything is missing of it. */
export async function restateEnded(db: Db, id: ReadId, state: 'done' | 'gaps'): Promise<void> {
  await db('reads').where({ id }).whereIn('state', ['done', 'gaps']).update({ state })
}

/** Changes a read's state if it is in one of the given states; false: it is not. */
export async function moveRead(
  db: Db,
  id: ReadId,
  from: readonly ReadState[],
  to: ReadState,
  more: { error?: string | null; waits_for?: string; enough?: null } = {},
): Promise<boolean> {
  const ended = ['stopped', 'done', 'gaps', 'failed'].includes(to)
  const changed = await db('reads')
    .where({ id })
    .whereIn('state', [...from])
    .update({
      state: to,
      ended_at: ended ? new Date() : null,
      waits_for: null,
      ...(ended ? { fetching: null } : {}),
      // What is being stopped is still somebody's work: should they die, it is found.
      ...(to === 'running' || to === 'stopping' ? {} : { claimed_by: null }),
      ...more,
    })
  return changed === 1
}

/** Counts reads that have not ended, over all jobs. */
export async function countActiveReads(db: Db): Promise<number> {
  const row = await db('reads')
    .whereIn('state', ['queued', 'running', 'stopping', 'away'])
    .count({ count: '*' })
    .first()
  return Number(row?.count ?? 0)
}

/** Reads that wait for their source to come back. */
export async function readsAway(db: Db): Promise<ReadId[]> {
  return db('reads').where({ state: 'away' }).orderBy('id').pluck('id')
}

/** Keeps the date of the state that a step shows, before anything of it is stored. */
export async function dateStep(db: Db, stepId: number, takenAt: Date | null): Promise<void> {
  await db('read_steps').where({ id: stepId }).update({ taken_at: takenAt })
}

/** Keeps the account of a step that was read to its end. From then on its silence counts. */
export async function keepAccount(db: Db, stepId: number, account: StepAccount): Promise<void> {
  await db('read_steps')
    .where({ id: stepId })
    .update({ account: asJson(account) })
}

/** Says that a step has ended, and that all that follows from it was worked out. */
export async function finishStep(db: Db, stepId: number): Promise<void> {
  await db('read_steps').where({ id: stepId }).update({ finished: true })
}

/** True once anything was stored of a source: what it shows is a state with a date then. */
export async function wasReadFrom(db: Db, sourceId: SourceId): Promise<boolean> {
  const step = await db('read_steps')
    .join('reads', 'reads.id', 'read_steps.read_id')
    .where('reads.source_id', sourceId)
    .where((some) => some.where('read_steps.done', '>', 0).orWhere('read_steps.finished', true))
    .first('read_steps.id')
  return step !== undefined
}

/** Keeps of which device a source is, as the technician says; null: as it says itself. */
export async function sayDevice(db: Db, id: SourceId, key: string | null): Promise<void> {
  await db('sources').where({ id }).update({ said_device: key })
}

/** Keeps what a read fetches at this moment. */
export async function keepFetching(db: Db, id: ReadId, now: CollectProgress): Promise<void> {
  await db('reads')
    .where({ id })
    .update({ fetching: asJson(now) })
}

export async function keepWarnings(db: Db, id: ReadId, warnings: readonly Warning[]): Promise<void> {
  await db('reads')
    .where({ id })
    .update({ warnings: asJson(warnings) })
}

/** True while nobody asked a read to stop. */
export async function isRunning(db: Db, id: ReadId): Promise<boolean> {
  return (await db('reads').where({ id }).first('state'))?.state === 'running'
}
