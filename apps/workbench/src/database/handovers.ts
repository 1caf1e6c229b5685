import type { PackageSummary } from '@lumbrin/core/export/package'
import type { Handover, HandoverOptions, HandoverState } from '../domain/handover.js'
import type { HandoverId, JobId } from '../domain/ids.js'
import { actingNow } from './acting.js'
import type { Db } from './connection.js'
import { asId, asJson, parsed } from './json.js'
import { fromStored, toStored } from './places.js'
import type { HandoversTable } from './tables.js'

const toHandover = (raw: HandoversTable): Handover => ({
  id: raw.id,
  jobId: raw.job_id,
  kind: raw.kind,
  destination: fromStored(raw.destination),
  state: raw.state,
  done: raw.done,
  total: raw.total,
  doneBytes: Number(raw.done_bytes),
  totalBytes: Number(raw.total_bytes),
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
  jobId: JobId,
  kind: Handover['kind'],
  destination: string,
  { items, bytes }: { items: number; bytes: number },
  options: HandoverOptions,
): Promise<HandoverId> {
  const [id] = await db('handovers').insert({
    job_id: jobId,
    kind,
    destination: toStored(destination),
    state: 'queued',
    total: items,
    total_bytes: bytes,
    options: asJson(options),
    operator: actingNow(),
    created_at: new Date(),
  })
  return asId<HandoverId>(id)
}

export async function listHandovers(db: Db, jobId: JobId): Promise<Handover[]> {
  return (await db('handovers').where({ job_id: jobId }).orderBy('id', 'desc')).map(toHandover)
}

export async function findHandover(db: Db, id: HandoverId): Promise<Handover | undefined> {
  const raw = await db('handovers').where({ id }).first()
  return raw && toHandover(raw)
}

export async function updateHandover(
  db: Db,
  id: HandoverId,
  { done, doneBytes, destination }: { done?: number; doneBytes?: number; destination?: string },
): Promise<void> {
  await db('handovers')
    .where({ id })
    .update({
      ...(done === undefined ? {} : { done }),
      ...(doneBytes === undefined ? {} : { done_bytes: doneBytes }),
      ...(destination === undefined ? {} : { destination: toStored(destination) }),
    })
}

/** Moves a handover on, if it is in one of these states. False: it is not. */
export async function moveHandover(
  db: Db,
  id: HandoverId,
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
  id: HandoverId,
  result: { summary: PackageSummary } | { error: string },
): Promise<void> {
  const summary = 'summary' in result ? asJson(placed(result.summary, toStored)) : null
  const error = 'error' in result ? result.error : null
  await db('handovers')
    .where({ id })
    .update({ state: error ? 'failed' : 'done', summary, error, claimed_by: null, ended_at: new Date() })
}
