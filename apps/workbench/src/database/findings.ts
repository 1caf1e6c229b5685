import type { CategoryId, Pass, Sighting } from '@lumbrin/core/categories/types'
import { type Db, transact } from './connection.js'
import { adoptLikeOnes, identitiesOf, type Keys, keysOf, versionOf } from './merging.js'
import type { StepRow } from './sources.js'
import { restand } from './standings.js'

/** Where a batch of sightings comes from. */
export interface BatchOrigin {
  jobId: number
  sourceId: number
  category: CategoryId
  pass: Pass | typeof PICKED
  /** Position of the batch's first sighting within its step. */
  first: number
}

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
  await transact(db, async (trx) => {
    const keys = batch.map(keysOf)
    const identities = await identitiesOf(trx, keys, origin)
    const ids = await findingIds(trx, batch, identities, origin)
    await trx.batchInsert(
      'sightings',
      batch.map((sighting, i) =>
        sightingRow(sighting, keys[i] as Keys, ids.get(identities[i] as string) as number, origin, origin.first + i),
      ),
      500,
    )
    const changed = await trx('read_steps')
      .where({ id: step.id, done: origin.first })
      .update({ done: origin.first + batch.length })
    if (changed !== 1) throw new Error(`step ${step.id} was moved by another reader`)
    const joined = await adoptLikeOnes(trx, keys, origin)
    await restand(trx, origin.jobId, origin.category, [...new Set([...ids.values(), ...joined])])
  })
}

async function findingIds(
  trx: Db,
  batch: readonly Sighting[],
  identities: string[],
  origin: BatchOrigin,
): Promise<Map<string, number>> {
  const fresh = new Map(batch.map((sighting, i) => [identities[i] as string, sighting]))
  const known = await knownIds(trx, [...fresh.keys()], origin)
  for (const identity of known.keys()) fresh.delete(identity)
  if (fresh.size === 0) return known
  const rows = [...fresh].map(([identity, sighting]) => ({
    job_id: origin.jobId,
    category: origin.category,
    identity,
    standing: 'partial',
    ...shownOf(sighting),
  }))
  await trx('findings').insert(rows).onConflict().ignore()
  return new Map([...known, ...(await knownIds(trx, [...fresh.keys()], origin))])
}

async function knownIds(trx: Db, identities: string[], { jobId, category }: BatchOrigin): Promise<Map<string, number>> {
  const rows = await trx('findings')
    .where({ job_id: jobId, category })
    .whereIn('identity', identities)
    .select('id', 'identity')
  return new Map(rows.map((row) => [row.identity, Number(row.id)]))
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

function sightingRow(sighting: Sighting, keys: Keys, findingId: number, origin: BatchOrigin, ordinal: number) {
  return {
    finding_id: findingId,
    job_id: origin.jobId,
    strong: keys.strong,
    likeness: keys.likeness,
    version: versionOf(sighting),
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
  return transact(db, async (trx) => {
    const origin: BatchOrigin = { jobId, sourceId, category: sighting.category, pass: PICKED, first: 0 }
    const keys = keysOf(sighting)
    const ids = await findingIds(trx, [sighting], [keys.identity], origin)
    const id = [...ids.values()][0] as number
    const seen = await trx('sightings').where({ finding_id: id, source_id: sourceId }).first('id')
    if (!seen) {
      const last = await trx('sightings').where({ source_id: sourceId, pass: PICKED }).max({ last: 'ordinal' }).first()
      await trx('sightings').insert(sightingRow(sighting, keys, id, origin, (last?.last ?? -1) + 1))
      await restand(trx, jobId, sighting.category, [id])
    }
    return id
  })
}

// Stored in sightings.pass, beside the passes of reads.
const PICKED = 'picked'
