import type { ContentState } from '@lumbrin/core/categories/content-states'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Condition } from '@lumbrin/core/categories/types'
import type { JobId, SourceId } from '../domain/ids.js'
import {
  type Assessment,
  assess,
  CLAIM_COLUMNS,
  claimColumnsOf,
  claimIn,
  type Grounds,
  groundsOf,
  idsToShow,
  type Seen,
  type Shown,
  type ShownById,
} from './assessments.js'
import { transactInCategory } from './category-lock.js'
import type { Db } from './connection.js'
import { parsed } from './json.js'
import { WORD_COLUMNS } from './sighting-rows.js'

/** Works out what is claimed of findings from all their sightings, and shows the best copy's words. */
export async function restand(trx: Db, jobId: JobId, category: CategoryId, ids: readonly number[]): Promise<void> {
  if (ids.length > 0) await restandOn(trx, await groundsOf(trx, jobId, category), ids, new Map())
}

/** @param inHand sightings that need not be loaded */
export async function restandOn(trx: Db, grounds: Grounds, ids: readonly number[], inHand: ShownById): Promise<void> {
  if (ids.length === 0) return
  const groups = await seenOf(trx, ids)
  const firsts = grounds.severalStores ? [...groups.values()].map((seen) => (seen[0] as Seen).id) : []
  const first = await shownOf(trx, firsts, inHand)
  const claims = [...groups].map(([id, seen]) => ({ id, seen, claim: claimIn(grounds, seen, first) }))
  const shown = await shownOf(
    trx,
    claims.flatMap(({ claim }) => idsToShow(claim)),
    new Map([...inHand, ...first]),
  )
  await storeChanges(
    trx,
    new Map(claims.map(({ id, seen, claim }) => [id, assess(grounds, claim, seen, shown)])),
    shown,
  )
}

const COUNTED = new Set<string>(['best_sighting_id', 'sighting_count'])

async function storeChanges(trx: Db, all: ReadonlyMap<number, Assessment>, shown: ShownById): Promise<void> {
  const columns = [...CLAIM_COLUMNS, ...WORD_COLUMNS]
  const rows = await trx('findings')
    .whereIn('id', [...all.keys()])
    .select('id', ...columns)
  const whole: [number, Assessment][] = []
  const counted: [number, Assessment][] = []
  for (const row of rows) {
    const id = Number(row.id)
    const one = all.get(id) as Assessment
    const says = { ...shown.get(one.claim.best.id), ...claimColumnsOf(one) } as { [column: string]: unknown }
    const changed = columns.filter((name) => comparable(row[name]) !== comparable(says[name]))
    if (changed.length > 0) (changed.every((name) => COUNTED.has(name)) ? counted : whole).push([id, one])
  }
  await storeWhole(trx, whole)
  await storeCounted(trx, counted)
}

const comparable = (value: unknown) => (value instanceof Date ? value.getTime() : value)

/** One statement for all; the words shown are those of the best copy. */
async function storeWhole(trx: Db, changes: readonly [number, Assessment][]): Promise<void> {
  if (changes.length === 0) return
  const listed = changes.map(() => `SELECT ? AS id, ${CLAIM_COLUMNS.map((name) => `? AS ${name}`).join(', ')}`)
  await trx.raw(
    `UPDATE findings f JOIN (${listed.join(' UNION ALL ')}) c ON c.id = f.id JOIN sightings s ON s.id = c.best_sighting_id
     SET ${CLAIM_COLUMNS.map((name) => `f.${name} = c.${name}`).join(', ')},
       ${WORD_COLUMNS.map((name) => `f.${name} = s.${name}`).join(', ')}`,
    changes.flatMap(([id, one]) => {
      const columns = claimColumnsOf(one)
      return [id, ...CLAIM_COLUMNS.map((name) => columns[name])]
    }),
  )
}

/**
 * For findings whose best copy is another sighting with the same words now, as most that a second source shows: two columns
 * change, and neither is in an index. Takes a quarter of the time of `storeWhole`.
 */
async function storeCounted(trx: Db, changes: readonly [number, Assessment][]): Promise<void> {
  if (changes.length === 0) return
  const listed = changes.map(() => 'SELECT ? AS id, ? AS best, ? AS seen')
  await trx.raw(
    `UPDATE findings f JOIN (${listed.join(' UNION ALL ')}) c ON c.id = f.id
     SET f.best_sighting_id = c.best, f.sighting_count = c.seen`,
    changes.flatMap(([id, { claim, seen }]) => [id, claim.best.id, seen]),
  )
}

async function seenOf(trx: Db, ids: readonly number[]): Promise<Map<number, Seen[]>> {
  // Answered from an index alone, which a join or an order would not be.
  const rows: {
    id: number
    finding_id: number
    condition: Condition
    source_id: number
    content_state: ContentState
  }[] = await trx('sightings')
    .whereIn('finding_id', [...ids])
    .select('id', 'finding_id', 'condition', 'source_id', 'content_state')
  rows.sort((a, b) => a.id - b.id)
  const groups = new Map<number, Seen[]>()
  for (const row of rows) {
    const id = Number(row.finding_id)
    const one = {
      id: Number(row.id),
      sourceId: Number(row.source_id),
      condition: row.condition,
      content: row.content_state,
    }
    const group = groups.get(id)
    if (group) group.push(one)
    else groups.set(id, [one])
  }
  return groups
}

/** The sightings of some ids; those that are in hand are taken from there. */
async function shownOf(trx: Db, ids: readonly number[], inHand: ShownById): Promise<Map<number, Shown>> {
  const shown = new Map<number, Shown>()
  const missing: number[] = []
  for (const id of ids) {
    const one = inHand.get(id)
    if (one) shown.set(id, one)
    else missing.push(id)
  }
  if (missing.length === 0) return shown
  const rows = await trx('sightings')
    .whereIn('id', missing)
    .select('id', 'fields', ...WORD_COLUMNS)
  for (const { id, fields, ...words } of rows) shown.set(Number(id), { ...words, fields: parsed(fields) })
  return shown
}

const CHUNK = 1000

/**
 * Works out all findings of a category again, without reading any source: after another source was read for it, what
 * that one does not show is gone from it, and windows of loss became narrower. What it does show was worked out as it
 * was stored, and is left alone where `read` names that source.
 */
export async function restandCategory(db: Db, jobId: JobId, category: CategoryId, read?: SourceId): Promise<void> {
  for (let after = 0; ; ) {
    const ids = await transactInCategory(db, { jobId, category }, async (trx) => {
      const findings = trx('findings').where({ job_id: jobId, category }).where('id', '>', after)
      if (read !== undefined)
        findings.whereNotExists(
          trx('sightings')
            .where('sightings.finding_id', trx.ref('findings.id'))
            .where({ source_id: read })
            .whereIn('condition', ['live', 'binned']),
        )
      const rows = await findings.orderBy('id').limit(CHUNK).select('id')
      const some = rows.map((row) => Number(row.id))
      await restand(trx, jobId, category, some)
      return some
    })
    if (ids.length < CHUNK) return
    after = ids.at(-1) as number
  }
}

/** The same for a whole job: its brief or its sources changed. */
export async function restandAll(db: Db, jobId: JobId): Promise<void> {
  const categories: { category: CategoryId }[] = await db('findings').where({ job_id: jobId }).distinct('category')
  for (const { category } of categories) await restandCategory(db, jobId, category)
}
