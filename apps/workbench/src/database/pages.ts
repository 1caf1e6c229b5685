import type { Knex } from 'knex'
import type { Db } from './connection.js'
import { type FindingFilter, type FindingLine, filtered, type Order, toLine } from './queries.js'

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
  const query = filtered(db, jobId, filter)
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')
    .leftJoin('tray', (join) => join.on('tray.finding_id', 'findings.id').andOn('tray.job_id', 'findings.job_id'))
    .limit(PAGE_SIZE)
    .select('findings.*', 'sightings.fields', 'sightings.content', 'tray.finding_id as in_tray')
  for (const [column, direction] of columns) query.orderBy(`findings.${column}`, direction)
  query.orderBy('findings.id', columns.at(-1)?.[1] ?? 'asc')
  if (after) {
    const values: Record<string, string | number | Date | null> = {
      happened_at: after.when === null ? null : new Date(after.when),
      match_score: after.score,
      title: after.title,
      bytes: after.bytes,
    }
    query.andWhere((rest) => behind(rest, columns, values, after.id))
  }
  return (await query).map(toLine)
}

/** What comes behind an end in the order: beyond it in the first column, or equal there and beyond it in the next ones. */
function behind(
  query: Knex.QueryBuilder,
  [first, ...rest]: readonly [string, Direction][],
  values: Record<string, string | number | Date | null>,
  id: number,
  last: Direction = first?.[1] ?? 'asc',
): void {
  if (!first) {
    query.where('findings.id', last === 'asc' ? '>' : '<', id)
    return
  }
  const [name, direction] = first
  const column = `findings.${name}`
  const value = values[name] ?? null
  // NULL dates sort first upwards and last downwards in MariaDB.
  if (value === null) {
    query.where((same) => same.whereNull(column).andWhere((next) => behind(next, rest, values, id, direction)))
    if (direction === 'asc') query.orWhereNotNull(column)
    return
  }
  query
    .where(column, direction === 'asc' ? '>' : '<', value)
    .orWhere((same) => same.where(column, value).andWhere((next) => behind(next, rest, values, id, direction)))
  if (direction === 'desc' && name === 'happened_at') query.orWhereNull(column)
}
