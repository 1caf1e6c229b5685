import type { FindingId, JobId, SourceId } from '../domain/ids.js'
import type { StepRow } from '../domain/source.js'
import { groundsOf } from './assessments.js'
import { transactInCategory } from './category-lock.js'
import { type Db, isRefusal } from './connection.js'
import { adoptLikeOnes, dropEmpty, identitiesOf } from './merging.js'
import { type Prepared, prepare, type SeenSighting } from './sighting-rows.js'
import { restand, restandOn } from './standings.js'
import { type BatchOrigin, knownIds, PICKED, storeSightings } from './storing.js'

/**
 * Stores a batch of sightings, merges them into findings and moves the step on, all in one transaction: after a crash
 * the step stands exactly where its sightings do. What an earlier try of the same step stored is replaced.
 */
export async function storeBatch(
  db: Db,
  batch: readonly Prepared[],
  origin: BatchOrigin,
  step: Pick<StepRow, 'id'>,
  again = false,
): Promise<void> {
  await transactInCategory(db, origin, async (trx) => {
    const keys = batch.map((one) => one.keys)
    const left = again ? await removeStretch(trx, origin, origin.first, origin.first + batch.length) : []
    const grounds = await groundsOf(trx, origin.jobId, origin.category)
    const identities = await identitiesOf(trx, keys, origin)
    const { ids, stored } = await storeSightings(trx, batch, identities, origin, grounds)
    const changed = await trx('read_steps')
      .where({ id: step.id, done: origin.first })
      .update({ done: origin.first + batch.length })
    if (changed !== 1) throw new Error(`step ${step.id} was moved by another reader`)
    const joined = await adoptLikeOnes(trx, keys, origin)
    const others = await dropEmpty(trx, left)
    await restandOn(trx, grounds, [...new Set([...ids, ...joined, ...others])], stored)
  })
}

/**
 * Stores a batch as `storeBatch` does; sightings that the database does not take are passed over, each by itself, so that
 * none holds up the others. @returns how many were passed over
 */
export async function storeWhatIsTaken(
  db: Db,
  batch: readonly Prepared[],
  origin: BatchOrigin,
  step: Pick<StepRow, 'id'>,
  again = false,
): Promise<number> {
  if (batch.reduce((sum, { sighting }) => sum + lengthOf(sighting), 0) <= MOST_IN_STATEMENT)
    try {
      await storeBatch(db, batch, origin, step, again)
      return 0
    } catch (thrown) {
      if (!isRefusal(thrown)) throw thrown
    }
  if (batch.length === 1) {
    await db('read_steps').where({ id: step.id, done: origin.first }).increment('done')
    return 1
  }
  const half = batch.length >> 1
  const before = await storeWhatIsTaken(db, batch.slice(0, half), origin, step, again)
  const second = { ...origin, first: origin.first + half }
  return before + (await storeWhatIsTaken(db, batch.slice(half), second, step, again))
}

// Characters. The server closes the connection on a statement that is longer than it takes, 64 MB of bytes.
const MOST_IN_STATEMENT = 8 << 20

/** About how many characters a sighting needs in a statement. */
function lengthOf({ text, fields }: Prepared['sighting']): number {
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
  await transactInCategory(db, origin, async (trx) => {
    const left = await removeStretch(trx, origin, origin.first, MOST_ORDINAL)
    await restand(trx, origin.jobId, origin.category, await dropEmpty(trx, left))
  })
}
const MOST_ORDINAL = 2 ** 32

/** Stores a sighting that was picked by hand, outside of any read; gives its finding's id. */
export async function storePicked(db: Db, picked: SeenSighting, jobId: JobId, sourceId: SourceId): Promise<FindingId> {
  const one = prepare(picked)
  const { category } = picked.sighting
  return transactInCategory(db, { jobId, category }, async (trx) => {
    const last = await trx('sightings').where({ source_id: sourceId, pass: PICKED }).max({ last: 'ordinal' }).first()
    const origin: BatchOrigin = { jobId, sourceId, category, pass: PICKED, first: (last?.last ?? -1) + 1 }
    const id = (await knownIds(trx, [one.keys.identity], origin)).get(one.keys.identity)
    if (id !== undefined && (await trx('sightings').where({ finding_id: id, source_id: sourceId }).first('id')))
      return id
    const grounds = await groundsOf(trx, jobId, category)
    const { ids, stored } = await storeSightings(trx, [one], [one.keys.identity], origin, grounds)
    await restandOn(trx, grounds, ids, stored)
    return ids[0] as FindingId
  })
}
