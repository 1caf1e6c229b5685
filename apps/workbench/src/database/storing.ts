import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Pass } from '@lumbrin/core/categories/types'
import type { FindingId, JobId, SourceId } from '../domain/ids.js'
import { assess, claimColumnsOf, claimIn, type Grounds, type Shown, type ShownById } from './assessments.js'
import { type Db, insertReturning } from './connection.js'
import { asId } from './json.js'
import { type NameIds, nameIds } from './names.js'
import { keptColumnsOf, type Prepared } from './sighting-rows.js'

/** Where a batch of sightings comes from. */
export interface BatchOrigin {
  jobId: JobId
  sourceId: SourceId
  category: CategoryId
  pass: Pass | typeof PICKED
  /** Position of the batch's first sighting within its step. */
  first: number
}

/** Stored in sightings.pass, beside the passes of reads. */
export const PICKED = 'picked'

/** Stores sightings under the findings of some identities, which are made where they are new. */
export async function storeSightings(
  trx: Db,
  batch: readonly Prepared[],
  identities: readonly string[],
  origin: BatchOrigin,
  grounds: Grounds,
): Promise<{ ids: FindingId[]; stored: ShownById }> {
  const names = await nameIds(
    trx,
    origin.jobId,
    batch.map((one) => one.names),
  )
  const shown = new Map(batch.map((one, i) => [i, shownOf(one, names[i] as NameIds)]))
  const findings = await findingIds(trx, batch, shown, identities, origin, grounds)
  const rows = batch.map(({ keys, row }, i) => ({
    ...row,
    ...names[i],
    finding_id: findings.get(identities[i] as string) as FindingId,
    job_id: origin.jobId,
    strong: keys.strong,
    likeness: keys.likeness,
    source_id: origin.sourceId,
    pass: origin.pass,
    ordinal: origin.first + i,
  }))
  const stored = await insertReturning<{ id: number; ordinal: number }>(trx, trx('sightings').insert(rows), [
    'id',
    'ordinal',
  ])
  return {
    ids: [...new Set(findings.values())],
    stored: new Map(stored.map(({ id, ordinal }) => [Number(id), shown.get(ordinal - origin.first) as Shown])),
  }
}

/** What the finding of a sighting shows if this is the best of its sightings. */
const shownOf = ({ row, sighting }: Prepared, names: NameIds): Shown => ({
  happened_at: row.happened_at,
  title: row.title,
  text: row.text,
  content_state: row.content_state,
  has: row.has,
  ...names,
  fields: sighting.fields,
})

/**
 * Ids of findings by their identities. New ones are stored with all that can be said of them but their best copy's id: they
 * have many indices, and each would be written twice.
 * @param shown by the place in the batch
 */
async function findingIds(
  trx: Db,
  batch: readonly Prepared[],
  shown: ShownById,
  identities: readonly string[],
  origin: BatchOrigin,
  grounds: Grounds,
): Promise<Map<string, FindingId>> {
  const known = await knownIds(trx, [...new Set(identities)], origin)
  const fresh = new Map<string, number[]>()
  for (const [i, identity] of identities.entries()) {
    if (known.has(identity)) continue
    const places = fresh.get(identity)
    if (places) places.push(i)
    else fresh.set(identity, [i])
  }
  if (fresh.size === 0) return known
  const rows = [...fresh].map(([identity, places]) => ({
    job_id: origin.jobId,
    category: origin.category,
    identity,
    ...keptColumnsOf((batch[places.at(-1) as number] as Prepared).sighting),
    ...assessedColumns(grounds, batch, shown, places, origin),
    best_sighting_id: null,
  }))
  const insertion = trx('findings').insert(rows).onConflict().ignore()
  const stored = await insertReturning<{ id: unknown; identity: string }>(trx, insertion, ['id', 'identity'])
  for (const { id, identity } of stored) known.set(identity, asId(id))
  if (stored.length === rows.length) return known
  // Another read stored some of them meanwhile.
  return new Map([...known, ...(await knownIds(trx, [...fresh.keys()], origin))])
}

/** What is claimed of a finding all of whose sightings are in the batch, at some places, and what it shows. */
function assessedColumns(
  grounds: Grounds,
  batch: readonly Prepared[],
  shown: ShownById,
  places: readonly number[],
  { sourceId }: BatchOrigin,
) {
  const seen = places.map((id) => {
    const { sighting, content } = batch[id] as Prepared
    return { id, sourceId, condition: sighting.condition, content }
  })
  const claim = claimIn(grounds, seen, shown)
  const { fields: _, ...words } = shown.get(claim.best.id) as Shown
  return { ...words, ...claimColumnsOf(assess(grounds, claim, seen, shown)) }
}

export async function knownIds(
  trx: Db,
  identities: string[],
  { jobId, category }: BatchOrigin,
): Promise<Map<string, FindingId>> {
  const rows = await trx('findings')
    .where({ job_id: jobId, category })
    .whereIn('identity', identities)
    .select('id', 'identity')
  return new Map(rows.map((row) => [row.identity, asId(row.id)]))
}
