import type { Knex } from 'knex'
import type { Db } from './connection.js'
import { type FindingFilter, type FindingLine, filtered, type Order, toLine } from './queries.js'
import { pageByReading, type Tier } from './reading-words.js'
import { IN_TRAY, joinTray } from './tray-blocks.js'

/** Where a page of results ends: the next one starts behind it. Which of the values count depends on the order. */
export interface PageEnd {
  id: number
  when: string | null
  score: number
  title: string
  bytes: number
}

const PAGE_SIZE = 200

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

/** One page of findings in the asked order, by an index and without counting. */
export async function pageOfFindings(
  db: Db,
  jobId: number,
  filter: FindingFilter,
  after: PageEnd | null,
): Promise<FindingLine[]> {
  const columns = COLUMNS[filter.order]
  const lines: FindingLine[] = []
  const tiers = after ? tiersBehind(columns, after) : [() => {}]
  const read = await pageByReading(db, jobId, filter, tiers, PAGE_SIZE)
  if (read) return inOrder(linesOf(db, db('findings').whereIn('id', read).select('id')), columns).then(toLines)
  for (const tier of tiers) {
    const chosen = filtered(db, jobId, filter).modify(tier).select('findings.id')
    inOrder(chosen, columns).limit(PAGE_SIZE - lines.length)
    lines.push(...toLines(await inOrder(linesOf(db, chosen), columns)))
    if (lines.length >= PAGE_SIZE) break
  }
  return lines
}

// biome-ignore lint/suspicious/noExplicitAny: rows of the database are shaped by the migrations beside this file
const toLines = (rows: any[]): FindingLine[] => rows.map(toLine)

/** A page's ids are found by the index alone; only its rows are then looked up. */
const linesOf = (db: Db, chosen: Knex.QueryBuilder): Knex.QueryBuilder =>
  joinTray(
    db,
    db
      .from(chosen.as('page'))
      .join('findings', 'findings.id', 'page.id')
      .join('sightings', 'sightings.id', 'findings.best_sighting_id'),
  ).select('findings.*', 'sightings.fields', 'sightings.content', db.raw(IN_TRAY))

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
