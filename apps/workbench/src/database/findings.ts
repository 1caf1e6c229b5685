import type { ContentState } from '@lumbrin/core/categories/content-states'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Pass, Sighting } from '@lumbrin/core/categories/types'
import type { FindingId, JobId, SourceId } from '../domain/ids.js'
import type { StepRow } from '../domain/source.js'
import { type Db, isRefusal, transact } from './connection.js'
import { asId, asJson } from './json.js'
import { adoptLikeOnes, dropEmpty, identitiesOf, type Keys, keysOf, versionOf } from './merging.js'
import { hasOf, nameIds } from './names.js'
import { restand } from './standings.js'

/** Where a batch of sightings comes from. */
export interface BatchOrigin {
  jobId: JobId
  sourceId: SourceId
  category: CategoryId
  pass: Pass | typeof PICKED
  /** Position of the batch's first sighting within its step. */
  first: number
}

const cut = (value: unknown, length: number) => [...(typeof value === 'string' ? value : '')].slice(0, length).join('')

/** A sighting with what can be had of its content. */
export interface SeenSighting {
  sighting: Sighting
  content: ContentState
}

/**
 * Stores a batch of sightings, merges them into findings and moves the step on, all in one transaction: after a crash
 * the step stands exactly where its sightings do. What an earlier try of the same step stored is replaced.
 */
export async function storeBatch(
  db: Db,
  seen: readonly SeenSighting[],
  origin: BatchOrigin,
  step: Pick<StepRow, 'id'>,
  again = false,
): Promise<void> {
  const batch = seen.map(({ sighting }) => sighting)
  await transact(db, async (trx) => {
    const keys = batch.map(keysOf)
    const left = again ? await removeStretch(trx, origin, origin.first, origin.first + batch.length) : []
    const identities = await identitiesOf(trx, keys, origin)
    const ids = await findingIds(trx, batch, identities, origin)
    const names = await nameIds(trx, origin.jobId, batch)
    await trx.batchInsert(
      'sightings',
      seen.map(({ sighting, content }, i) => ({
        ...sightingRow(
          sighting,
          keys[i] as Keys,
          ids.get(identities[i] as string) as FindingId,
          origin,
          origin.first + i,
        ),
        content_state: content,
        person_id: names[i]?.person ?? null,
        talk_id: names[i]?.talk ?? null,
      })),
      500,
    )
    const changed = await trx('read_steps')
      .where({ id: step.id, done: origin.first })
      .update({ done: origin.first + batch.length })
    if (changed !== 1) throw new Error(`step ${step.id} was moved by another reader`)
    const joined = await adoptLikeOnes(trx, keys, origin)
    const others = await dropEmpty(trx, left)
    await restand(trx, origin.jobId, origin.category, [...new Set([...ids.values(), ...joined, ...others])])
  })
}

/**
 * Stores a batch as `storeBatch` does; sightings that the database does not take are passed over, each by itself, so that
 * none holds up the others. @returns how many were passed over
 */
export async function storeWhatIsTaken(
  db: Db,
  seen: readonly SeenSighting[],
  origin: BatchOrigin,
  step: Pick<StepRow, 'id'>,
  again = false,
): Promise<number> {
  if (seen.reduce((sum, { sighting }) => sum + lengthOf(sighting), 0) <= MOST_IN_STATEMENT)
    try {
      await storeBatch(db, seen, origin, step, again)
      return 0
    } catch (thrown) {
      if (!isRefusal(thrown)) throw thrown
    }
  if (seen.length === 1) {
    await db('read_steps').where({ id: step.id, done: origin.first }).increment('done')
    return 1
  }
  const half = seen.length >> 1
  const before = await storeWhatIsTaken(db, seen.slice(0, half), origin, step, again)
  const second = { ...origin, first: origin.first + half }
  return before + (await storeWhatIsTaken(db, seen.slice(half), second, step, again))
}

// Characters. The server closes the connection on a statement that is longer than it takes, 64 MB of bytes.
const MOST_IN_STATEMENT = 8 << 20

/** About how many characters a sighting needs in a statement. */
function lengthOf({ text, fields }: Sighting): number {
  let length = 2 * (text?.length ?? 0)
  for (const value of Object.values(fields))
    if (typeof value === 'string') length += value.length
    else if (typeof value === 'object' && value !== null && 'base64' in value) length += String(value.base64).length
  return length
}

/** How many sightings of a step are stored before a position. */
export async function countStored(db: Db, { sourceId, category, pass, first }: BatchOrigin): Promise<number> {
  const row = await db('sightings')
    .where({ source_id: sourceId, category, pass })
    .where('ordinal', '<', first)
    .count({ count: '*' })
    .first()
  return Number(row?.count ?? 0)
}

/** Removes sightings of a step from one position to another; gives the findings that they belonged to. */
async function removeStretch(trx: Db, origin: BatchOrigin, from: number, to: number): Promise<number[]> {
  const { sourceId, category, pass } = origin
  const stretch = () =>
    trx('sightings')
      .where({ source_id: sourceId, category, pass })
      .where('ordinal', '>=', from)
      .where('ordinal', '<', to)
  const findings = await stretch().distinct('finding_id').pluck('finding_id')
  if (findings.length > 0) await stretch().delete()
  return findings.map(Number)
}

/** Removes what an earlier try of a step stored behind the end of this one. */
export async function removeBehind(db: Db, origin: BatchOrigin): Promise<void> {
  await transact(db, async (trx) => {
    const left = await removeStretch(trx, origin, origin.first, MOST_ORDINAL)
    await restand(trx, origin.jobId, origin.category, await dropEmpty(trx, left))
  })
}
const MOST_ORDINAL = 2 ** 32

async function findingIds(
  trx: Db,
  batch: readonly Sighting[],
  identities: string[],
  origin: BatchOrigin,
): Promise<Map<string, FindingId>> {
  const fresh = new Map(batch.map((sighting, i) => [identities[i] as string, sighting]))
  const known = await knownIds(trx, [...fresh.keys()], origin)
  for (const identity of known.keys()) fresh.delete(identity)
  if (fresh.size === 0) return known
  const rows = [...fresh].map(([identity, sighting]) => ({
    job_id: origin.jobId,
    category: origin.category,
    identity,
    standing: 'partial' as const,
    ...shownOf(sighting),
  }))
  await trx('findings').insert(rows).onConflict().ignore()
  return new Map([...known, ...(await knownIds(trx, [...fresh.keys()], origin))])
}

async function knownIds(
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

/** The columns of a finding that follow from the sighting it is shown by; texts as long as their columns take. */
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

function sightingRow(sighting: Sighting, keys: Keys, findingId: FindingId, origin: BatchOrigin, ordinal: number) {
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
    fields: asJson(sighting.fields),
    content: sighting.content && asJson(sighting.content),
    origin: asJson(sighting.origin),
    missing: asJson(sighting.missing),
    confidence: sighting.confidence,
    has: hasOf(sighting),
  }
}

/** Stores a sighting that was picked by hand, outside of any read; gives its finding's id. */
export async function storePicked(
  db: Db,
  { sighting, content }: SeenSighting,
  jobId: JobId,
  sourceId: SourceId,
): Promise<FindingId> {
  return transact(db, async (trx) => {
    const origin: BatchOrigin = { jobId, sourceId, category: sighting.category, pass: PICKED, first: 0 }
    const keys = keysOf(sighting)
    const ids = await findingIds(trx, [sighting], [keys.identity], origin)
    const id = [...ids.values()][0] as FindingId
    const seen = await trx('sightings').where({ finding_id: id, source_id: sourceId }).first('id')
    if (!seen) {
      const last = await trx('sightings').where({ source_id: sourceId, pass: PICKED }).max({ last: 'ordinal' }).first()
      await trx('sightings').insert({
        ...sightingRow(sighting, keys, id, origin, (last?.last ?? -1) + 1),
        content_state: content,
      })
      await restand(trx, jobId, sighting.category, [id])
    }
    return id
  })
}

// Stored in sightings.pass, beside the passes of reads.
const PICKED = 'picked'
