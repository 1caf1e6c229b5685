import type { SourceInfo } from '@lumbrin/core/backup/types'
import type { ReadStep } from '@lumbrin/core/categories/read'
import type { StepAccount } from '@lumbrin/core/categories/step-account'
import type { CollectProgress } from '@lumbrin/core/collected/collector'
import type { Warning } from '@lumbrin/core/io/errors'
import { digest } from '@lumbrin/core/io/hash'
import { actingNow } from './acting.js'
import { type Db, transact } from './connection.js'
import { asJson, parsed } from './json.js'
import { fromStored, toStored } from './places.js'

/** A source of a job as it is stored. */
export interface SourceRow {
  id: number
  jobId: number
  path: string
  info: Omit<SourceInfo, 'takenAt'>
  takenAt: Date | null
  bytes: number
  files: number
  /** The device that the technician named, by its key; null: nobody said. */
  saidDevice: string | null
}

/**
 * Stored in reads.state: renaming a value needs a migration. `away`: it waits for its source to come back; `gaps`: it
 * ended, and some of what was listed could not be had.
 */
export type ReadState = 'queued' | 'running' | 'stopping' | 'stopped' | 'away' | 'done' | 'gaps' | 'failed'
/** States of a read that has ended by itself. */
export const ENDED: readonly ReadState[] = ['done', 'gaps', 'failed']

export interface StepRow extends ReadStep {
  id: number
  position: number
  /** Sightings stored so far. */
  done: number
  finished: boolean
  /** What was read and what could not be; null until it is known. */
  account: StepAccount | null
}

export interface ReadRow {
  id: number
  jobId: number
  sourceId: number
  state: ReadState
  /** `again`: it tries anew what was read before. */
  mode: 'read' | 'again'
  /** Why it waits; null: it does not. */
  waitsFor: string | null
  queuedAt: Date
  startedAt: Date | null
  endedAt: Date | null
  error: string | null
  warnings: Warning[]
  /** What is being fetched from a device or a cloud account; null: nothing. */
  fetching: CollectProgress | null
  steps: StepRow[]
}

// biome-ignore lint/suspicious/noExplicitAny: rows of the database are shaped by the migrations beside this file
const toSource = (raw: any): SourceRow => ({
  id: raw.id,
  jobId: raw.job_id,
  path: fromStored(raw.path),
  info: { ...parsed<SourceRow['info']>(raw.info), path: fromStored(raw.path) },
  takenAt: raw.taken_at,
  bytes: Number(raw.bytes),
  files: raw.files,
  saidDevice: raw.said_device,
})

/**
 * Adds a source to a job. Undefined: the job has it already. `state` tells apart states that lay in one place, one after
 * the other.
 */
export async function insertSource(
  db: Db,
  jobId: number,
  info: SourceInfo,
  size: { bytes: number; files: number },
  state = '',
): Promise<number | undefined> {
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
  return id || undefined
}

export async function listSources(db: Db, jobId: number): Promise<SourceRow[]> {
  return (await db('sources').where({ job_id: jobId }).orderBy('id')).map(toSource)
}

/** The sources of all jobs, with their job's number. */
export async function listAllSources(db: Db): Promise<(SourceRow & { jobNumber: string })[]> {
  const raws = await db('sources')
    .join('jobs', 'jobs.id', 'sources.job_id')
    .orderBy('sources.id')
    .select('sources.*', 'jobs.number as job_number')
  return raws.map((raw) => ({ ...toSource(raw), jobNumber: raw.job_number }))
}

export async function findSource(db: Db, id: number): Promise<SourceRow | undefined> {
  const raw = await db('sources').where({ id }).first()
  return raw && toSource(raw)
}

/** Keeps what a source is now: a device goes on being used, and what was fetched of it grows. */
export async function updateSource(
  db: Db,
  id: number,
  { takenAt, ...info }: SourceInfo,
  size: { bytes: number; files: number },
): Promise<void> {
  await db('sources')
    .where({ id })
    .update({ info: asJson({ ...info, path: toStored(info.path) }), taken_at: takenAt, ...size })
}

/** Queues a read with its steps. */
export async function insertRead(
  db: Db,
  source: SourceRow,
  steps: readonly ReadStep[],
  mode: ReadRow['mode'] = 'read',
): Promise<number> {
  return transact(db, async (trx) => {
    const [id] = await trx('reads').insert({
      job_id: source.jobId,
      source_id: source.id,
      state: 'queued',
      mode,
      operator: actingNow(),
      queued_at: new Date(),
      warnings: '[]',
    })
    if (steps.length === 0) return id as number
    await trx('read_steps').insert(
      steps.map((step, position) => ({ read_id: id, position, category: step.category, pass: step.pass })),
    )
    return id as number
  })
}

/** Reads of a job with their steps, newest first. */
export async function listReads(db: Db, jobId: number): Promise<ReadRow[]> {
  const raws = await db('reads').where({ job_id: jobId }).orderBy('id', 'desc')
  return withSteps(db, raws)
}

export async function findRead(db: Db, id: number): Promise<ReadRow | undefined> {
  const [read] = await withSteps(db, await db('reads').where({ id }))
  return read
}

// biome-ignore lint/suspicious/noExplicitAny: as above
async function withSteps(db: Db, raws: any[]): Promise<ReadRow[]> {
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
    waitsFor: raw.waits_for,
    queuedAt: raw.queued_at,
    startedAt: raw.started_at,
    endedAt: raw.ended_at,
    error: raw.error,
    warnings: parsed(raw.warnings),
    fetching: raw.fetching && parsed(raw.fetching),
    steps: steps
      .filter((step) => step.read_id === raw.id)
      .map(({ id, position, category, pass, done, finished, account }) => ({
        id,
        position,
        category,
        pass,
        done,
        finished: finished === 1,
        account: account && parsed<StepAccount>(account),
      })),
  }))
}

/** Says of a read that ended whether anything is missing of it. */
export async function restateEnded(db: Db, id: number, state: 'done' | 'gaps'): Promise<void> {
  await db('reads').where({ id }).whereIn('state', ['done', 'gaps']).update({ state })
}

/** Changes a read's state if it is in one of the given states; false: it is not. */
export async function moveRead(
  db: Db,
  id: number,
  from: readonly ReadState[],
  to: ReadState,
  more: { error?: string | null; waits_for?: string } = {},
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
export async function readsAway(db: Db): Promise<number[]> {
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
export async function wasReadFrom(db: Db, sourceId: number): Promise<boolean> {
  const step = await db('read_steps')
    .join('reads', 'reads.id', 'read_steps.read_id')
    .where({ 'reads.source_id': sourceId })
    .where((some) => some.where('read_steps.done', '>', 0).orWhere('read_steps.finished', true))
    .first('read_steps.id')
  return step !== undefined
}
