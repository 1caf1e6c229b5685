import { STANDINGS, type Standing } from '@lumbrin/core/findings/standing'
import type { Knex } from 'knex'
import type { FindingFilter } from '../domain/filter.js'
import type { FindingLine, PageEnd } from '../domain/finding.js'
import { type Order, PAGE_SIZE } from '../domain/findings-query.js'
import type { JobId } from '../domain/ids.js'
import { parseSearch } from '../domain/search-text.js'
import { beginnings } from './conditions.js'
import type { Db } from './connection.js'
import { filtered, toLine } from './queries.js'
import { type Found, type InOrder, readInOrder, type Tier } from './reading-in-order.js'
import { IN_TRAY, joinTray } from './tray-blocks.js'

type Direction = 'asc' | 'desc'

/** The columns of each order; the id, which comes last, makes it total. */
const COLUMNS: Record<Order, readonly [column: string, direction: Direction][]> = {
  newest: [['happened_at', 'desc']],
  oldest: [['happened_at', 'asc']],
  match: [
    ['match_score', 'desc'],
    ['happened_at', 'desc'],
  ],
  title: [['title', 'asc']],
  largest: [['bytes', 'desc']],
}

/**
 * One page of findings in the asked order, of `size` at most, by an index and without counting: its ids first, then their
 * rows. Fewer than SHORTEST_PAGE are the last.
 */
export async function pageOfFindings(
  db: Db,
  jobId: JobId,
  filter: FindingFilter,
  after: PageEnd | null,
  size = PAGE_SIZE,
): Promise<FindingLine[]> {
  const columns = COLUMNS[filter.order]
  const tiers = after ? tiersBehind(columns, after) : [() => {}]
  const ids: number[] = []
  for (const tier of tiers) {
    const found = await findInTier(db, jobId, filter, tier, size - ids.length)
    ids.push(...found.ids)
    if (found.more || ids.length >= size) break
  }
  if (ids.length === 0) return []
  return (await inOrder(linesOf(db, ids), columns)).map(toLine)
}

async function findInTier(db: Db, jobId: JobId, filter: FindingFilter, tier: Tier, size: number): Promise<Found> {
  const ordered: InOrder = (query) => inOrder(query, COLUMNS[filter.order])
  const read = await readInOrder(db, { jobId, filter, tier, inOrder: ordered, size })
  if (read) return read
  const legs = legsOf(filter).map((leg) =>
    ordered(filtered(db, jobId, leg).modify(tier))
      .limit(size)
      .select(['findings.id', ...keysOf(filter.order)]),
  )
  const rows: { id: number }[] =
    legs.length === 1
      ? await (legs[0] as Knex.QueryBuilder)
      : await ordered(db.from(db.unionAll(legs, true).as('findings'))).limit(size)
  return { ids: rows.map(({ id }) => Number(id)), more: rows.length === size }
}

/**
 * Several standings have no index of their own: the first of each are taken from theirs, and the first of these are the
 * first of all.
 */
function legsOf(filter: FindingFilter): FindingFilter[] {
  const standings = standingsAsked(filter)
  const byDate = filter.order === 'newest' || filter.order === 'oldest'
  if (!standings || standings.length < 2 || !byDate || beginnings(parseSearch(filter.words)).length > 0) return [filter]
  return standings.map((standing) => ({ ...filter, standings: [standing] }))
}

/** The standings that both a filter and its search allow; null: neither restricts them. */
function standingsAsked({ standings, words }: FindingFilter): Standing[] | null {
  const asked = parseSearch(words).terms.filter((term) => term.kind === 'standing')
  if (standings.length === 0 && asked.length === 0) return null
  return STANDINGS.filter(
    (standing) =>
      (standings.length === 0 || standings.includes(standing)) &&
      asked.every(({ value, not }) => value.includes(standing) !== not),
  )
}

const keysOf = (order: Order): string[] => COLUMNS[order].map(([column]) => `findings.${column}`)

const linesOf = (db: Db, ids: readonly number[]): Knex.QueryBuilder =>
  joinTray(db, db('findings').whereIn('findings.id', ids))
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')
    .select('findings.*', 'sightings.fields', 'sightings.content', db.raw(IN_TRAY))

function inOrder(query: Knex.QueryBuilder, columns: readonly [string, Direction][]): Knex.QueryBuilder {
  for (const [column, direction] of columns) query.orderBy(`findings.${column}`, direction)
  return query.orderBy('findings.id', columns.at(-1)?.[1] ?? 'asc')
}

/**
 * What comes behind an end, in parts that follow each other in the order, each a single stretch of an index: equal in all
 * columns and beyond it by the id, then equal in all but the last and beyond it in that one, and so on.
 */
function tiersBehind(columns: readonly [string, Direction][], end: PageEnd): Tier[] {
  const values: Record<string, string | number | Date | null> = {
    happened_at: end.when === null ? null : new Date(end.when),
    match_score: end.score,
    title: end.title,
    bytes: end.bytes,
  }
  const equal = (query: Knex.QueryBuilder, count: number) => {
    for (const [name] of columns.slice(0, count)) query.where(`findings.${name}`, values[name] ?? null)
  }
  const beyondId = columns.at(-1)?.[1] === 'asc' ? '>' : '<'
  const tiers: Tier[] = [
    (query) => {
      equal(query, columns.length)
      query.where('findings.id', beyondId, end.id)
    },
  ]
  for (let i = columns.length - 1; i >= 0; i--) {
    const [name, direction] = columns[i] as [string, Direction]
    const column = `findings.${name}`
    const value = values[name] ?? null
    const add = (beyond: Tier) =>
      tiers.push((query) => {
        equal(query, i)
        beyond(query)
      })
    // NULL dates sort first upwards and last downwards in MariaDB.
    if (value === null) {
      if (direction === 'asc') add((query) => query.whereNotNull(column))
      continue
    }
    add((query) => query.where(column, direction === 'asc' ? '>' : '<', value))
    if (direction === 'desc' && name === 'happened_at') add((query) => query.whereNull(column))
  }
  return tiers
}
