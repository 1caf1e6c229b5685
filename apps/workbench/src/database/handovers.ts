import type { CategoryId } from '@lumbrin/core/categories/types'
import type { PackageSummary } from '@lumbrin/core/export/package'
import { actingNow } from './acting.js'
import type { Db } from './connection.js'
import { asJson, parsed } from './json.js'
import { fromStored, toStored } from './places.js'

// Stored in handovers.state: renaming a value needs a migration.
export type HandoverState = 'queued' | 'running' | 'stopping' | 'stopped' | 'done' | 'failed'

/** How a package is written; stored with the handover, since it may be written long after it was asked for. */
export interface HandoverOptions {
  /** By category; one that is not named is written in its own formats. */
  formats: Partial<Record<CategoryId, string[]>>
  duplicates: 'once' | 'each'
}

export interface HandoverRow {
  id: number
  jobId: number
  kind: 'folder' | 'zip'
  destination: string
  state: HandoverState
  done: number
  total: number
  options: HandoverOptions
  summary: PackageSummary | null
  error: string | null
  createdAt: Date
  endedAt: Date | null
}

// biome-ignore lint/suspicious/noExplicitAny: rows of the database are shaped by the migrations beside this file
const toHandover = (raw: any): HandoverRow => ({
  id: raw.id,
  jobId: raw.job_id,
  kind: raw.kind,
  destination: fromStored(raw.destination),
  state: raw.state,
  done: raw.done,
  total: raw.total,
  options: parsed(raw.options) ?? { formats: {}, duplicates: 'once' },
  summary: placed(parsed(raw.summary), fromStored),
  error: raw.error,
  createdAt: raw.created_at,
  endedAt: raw.ended_at,
})

const placed = (summary: PackageSummary | null, place: (path: string) => string): PackageSummary | null =>
  summary && { ...summary, path: place(summary.path) }

export async function insertHandover(
  db: Db,
  jobId: number,
  kind: HandoverRow['kind'],
  destination: string,
  total: number,
  options: HandoverOptions,
): Promise<number> {
  const [id] = await db('handovers').insert({
    job_id: jobId,
    kind,
    destination: toStored(destination),
    state: 'queued',
    total,
    options: asJson(options),
    operator: actingNow(),
    created_at: new Date(),
  })
  return id as number
}

export async function listHandovers(db: Db, jobId: number): Promise<HandoverRow[]> {
  return (await db('handovers').where({ job_id: jobId }).orderBy('id', 'desc')).map(toHandover)
}

export async function findHandover(db: Db, id: number): Promise<HandoverRow | undefined> {
  const raw = await db('handovers').where({ id }).first()
  return raw && toHandover(raw)
}

export async function updateHandover(
  db: Db,
  id: number,
  change: { done?: number; destination?: string },
): Promise<void> {
  const { destination } = change
  await db('handovers')
    .where({ id })
    .update({ ...change, ...(destination === undefined ? {} : { destination: toStored(destination) }) })
}

/** Moves a handover on, if it is in one of these states. False: it is not. */
export async function moveHandover(
  db: Db,
  id: number,
  from: readonly HandoverState[],
  to: HandoverState,
): Promise<boolean> {
  const idle = to === 'queued' || to === 'stopped' ? { claimed_by: null } : {}
  const ended = to === 'stopped' ? { ended_at: new Date() } : {}
  const moved = await db('handovers')
    .where({ id })
    .whereIn('state', [...from])
    .update({ state: to, ...idle, ...ended })
  return moved > 0
}

export async function endHandover(
  db: Db,
  id: number,
  result: { summary: PackageSummary } | { error: string },
): Promise<void> {
  const summary = 'summary' in result ? asJson(placed(result.summary, toStored)) : null
  const error = 'error' in result ? result.error : null
  await db('handovers')
    .where({ id })
    .update({ state: error ? 'failed' : 'done', summary, error, claimed_by: null, ended_at: new Date() })
}
