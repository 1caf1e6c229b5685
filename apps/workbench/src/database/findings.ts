import { CATEGORIES } from '@lumbrin/core/categories/table'
import type { CategoryId, Condition, Pass, Sighting } from '@lumbrin/core/categories/types'
import { isBetterCopy, type SeenAs, standingOf } from '@lumbrin/core/findings/standing'
import { digest } from '@lumbrin/core/io/hash'
import type { Db } from './connection.js'
import type { StepRow } from './sources.js'

/** Where a batch of sightings comes from. */
export interface BatchOrigin {
  jobId: number
  sourceId: number
  category: CategoryId
  pass: Pass | typeof PICKED
  /** Position of the batch's first sighting within its step. */
  first: number
}

const identityOf = (sighting: Sighting) => digest('sha256', CATEGORIES[sighting.category].identity(sighting))
const cut = (value: unknown, length: number) => [...(typeof value === 'string' ? value : '')].slice(0, length).join('')

/**
 * Stores a batch of sightings, merges them into findings and moves the step on, all in one transaction: after a crash
 * the step stands exactly where its sightings do.
 */
export async function storeBatch(
  db: Db,
  batch: readonly Sighting[],
  origin: BatchOrigin,
  step: StepRow,
): Promise<void> {
  await db.transaction(async (trx) => {
    const identities = batch.map(identityOf)
    const ids = await findingIds(trx, batch, identities, origin)
    await trx.batchInsert(
      'sightings',
      batch.map((sighting, i) =>
        sightingRow(sighting, ids.get(identities[i] as string) as number, origin, origin.first + i),
      ),
      500,
    )
    await restand(trx, origin.jobId, origin.category, [...new Set(ids.values())])
    const changed = await trx('read_steps')
      .where({ id: step.id, done: origin.first })
      .update({ done: origin.first + batch.length })
    if (changed !== 1) throw new Error(`step ${step.id} was moved by another reader`)
  })
}

async function findingIds(
  trx: Db,
  batch: readonly Sighting[],
  identities: string[],
  origin: BatchOrigin,
): Promise<Map<string, number>> {
  const fresh = new Map(batch.map((sighting, i) => [identities[i] as string, sighting]))
  const rows = [...fresh].map(([identity, sighting]) => ({
    job_id: origin.jobId,
    category: origin.category,
    identity,
    standing: 'partial',
    ...shownOf(sighting),
  }))
  await trx('findings').insert(rows).onConflict().ignore()
  const known = await trx('findings')
    .where({ job_id: origin.jobId, category: origin.category })
    .whereIn('identity', [...fresh.keys()])
    .select('id', 'identity')
  return new Map(known.map((row) => [row.identity, Number(row.id)]))
}

function shownOf(sighting: Sighting) {
  return {
    happened_at: sighting.when ? new Date(sighting.when) : null,
    title: cut(sighting.title, 500),
    text: sighting.text,
    conversation: cut(sighting.fields.conversation, 190),
    conversation_title: cut(
      sighting.fields.conversationTitle ?? (sighting.fields.conversation ? sighting.title : ''),
      190,
    ),
    bytes: sighting.content?.bytes ?? Buffer.byteLength(sighting.text ?? ''),
  }
}

function sightingRow(sighting: Sighting, findingId: number, origin: BatchOrigin, ordinal: number) {
  return {
    finding_id: findingId,
    source_id: origin.sourceId,
    category: origin.category,
    pass: origin.pass,
    ordinal,
    condition: sighting.condition,
    happened_at: sighting.when ? new Date(sighting.when) : null,
    title: cut(sighting.title, 500),
    text: sighting.text,
    fields: JSON.stringify(sighting.fields),
    content: sighting.content && JSON.stringify(sighting.content),
    origin: JSON.stringify(sighting.origin),
    missing: JSON.stringify(sighting.missing),
    confidence: sighting.confidence,
  }
}

/** Stores a sighting that was picked by hand, outside of any read; gives its finding's id. */
export async function storePicked(db: Db, sighting: Sighting, jobId: number, sourceId: number): Promise<number> {
  return db.transaction(async (trx) => {
    const origin: BatchOrigin = { jobId, sourceId, category: sighting.category, pass: PICKED, first: 0 }
    const ids = await findingIds(trx, [sighting], [identityOf(sighting)], origin)
    const id = [...ids.values()][0] as number
    const seen = await trx('sightings').where({ finding_id: id, source_id: sourceId }).first('id')
    if (!seen) {
      const last = await trx('sightings').where({ source_id: sourceId, pass: PICKED }).max({ last: 'ordinal' }).first()
      await trx('sightings').insert(sightingRow(sighting, id, origin, (last?.last ?? -1) + 1))
      await restand(trx, jobId, sighting.category, [id])
    }
    return id
  })
}

// Stored in sightings.pass, beside the passes of reads.
const PICKED = 'picked'

type SeenRow = SeenAs & { id: number; findingId: number }

/** Works out standing and best copy of findings from all their sightings, and shows the best copy's words. */
export async function restand(trx: Db, jobId: number, category: CategoryId, ids: readonly number[]): Promise<void> {
  const newest = await newestSourceAt(trx, jobId, category)
  const seen: { id: number; finding_id: number; condition: Condition; taken_at: Date | null }[] = await trx('sightings')
    .join('sources', 'sources.id', 'sightings.source_id')
    .whereIn('finding_id', [...ids])
    .orderBy('sightings.id')
    .select('sightings.id', 'finding_id', 'condition', 'taken_at')
  const byFinding = new Map<number, SeenRow[]>()
  for (const row of seen) {
    const one = {
      id: Number(row.id),
      findingId: Number(row.finding_id),
      condition: row.condition,
      sourceTakenAt: row.taken_at?.getTime() ?? null,
    }
    const group = byFinding.get(one.findingId)
    if (group) group.push(one)
    else byFinding.set(one.findingId, [one])
  }
  const changes = [...byFinding].map(([id, group]) => [id, standingOf(group, newest), bestOf(group).id, group.length])
  if (changes.length === 0) return
  // One statement for the whole batch; the words shown are those of the best copy.
  const rows = changes.map(() => 'SELECT ? AS id, ? AS standing, ? AS best, ? AS seen').join(' UNION ALL ')
  await trx.raw(
    `UPDATE findings f JOIN (${rows}) c ON c.id = f.id JOIN sightings s ON s.id = c.best
     SET f.standing = c.standing, f.best_sighting_id = c.best, f.sighting_count = c.seen, f.happened_at = s.happened_at, f.title = s.title, f.text = s.text`,
    changes.flat(),
  )
}

function bestOf(group: SeenRow[]): SeenRow {
  return group.reduce((best, one) => (isBetterCopy(one, best) ? one : best))
}

async function newestSourceAt(trx: Db, jobId: number, category: CategoryId): Promise<number | null> {
  const row = await trx('sources')
    .join('reads', 'reads.source_id', 'sources.id')
    .join('read_steps', 'read_steps.read_id', 'reads.id')
    .where({ 'sources.job_id': jobId, 'read_steps.category': category, 'read_steps.pass': 'live' })
    .max({ newest: 'sources.taken_at' })
    .first()
  if (row?.newest) return new Date(row.newest).getTime()
  // What was picked by hand needs no read.
  const any = await trx('sources').where({ job_id: jobId }).max({ newest: 'taken_at' }).first()
  return any?.newest ? new Date(any.newest).getTime() : null
}
