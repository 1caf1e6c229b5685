import { mayHold } from '@lumbrin/core/categories/encrypted'
import type { CategoryId } from '@lumbrin/core/categories/types'
import type { Db } from '../database/connection.js'
import { parsed } from '../database/json.js'

/** An item that one of two sources shows and the other does not. */
export interface Example {
  id: number
  title: string
  text: string | null
  when: string | null
}

/** How two sources differ in one category, by what each shows live. */
export interface Difference {
  category: CategoryId
  onlyFirst: number
  onlySecond: number
  both: number
  /** Of those in both: what they say differs. */
  changed: number
  bytesFirst: number
  bytesSecond: number
  examplesFirst: Example[]
  examplesSecond: Example[]
}

const EXAMPLES = 5

/**
 * What two sources of a job show, category by category. Seen as the restore of the first onto a device that looks like
 * the second: `onlyFirst` comes back, `onlySecond` is wiped, `changed` goes back to what it was.
 */
export async function sourceDifferences(db: Db, jobId: number, first: number, second: number): Promise<Difference[]> {
  const categories = await readFromBoth(db, first, second)
  const rows = await db
    .from(inEither(db, jobId, first, second).as('pairs'))
    .join('findings', 'findings.id', 'pairs.finding_id')
    .whereIn('pairs.category', categories)
    .groupBy('pairs.category')
    .orderBy('pairs.category')
    .select('pairs.category')
    .select(
      db.raw('SUM(in_first AND NOT in_second) AS only_first'),
      db.raw('SUM(in_second AND NOT in_first) AS only_second'),
      db.raw('SUM(in_first AND in_second) AS both_of_them'),
      db.raw('SUM(in_first AND in_second AND versions > 1) AS changed'),
      db.raw('SUM(IF(in_first AND NOT in_second, findings.bytes, 0)) AS bytes_first'),
      db.raw('SUM(IF(in_second AND NOT in_first, findings.bytes, 0)) AS bytes_second'),
    )
  return Promise.all(
    rows.map(async (row) => ({
      category: row.category,
      onlyFirst: Number(row.only_first),
      onlySecond: Number(row.only_second),
      both: Number(row.both_of_them),
      changed: Number(row.changed),
      bytesFirst: Number(row.bytes_first),
      bytesSecond: Number(row.bytes_second),
      examplesFirst: row.only_first > 0 ? await examples(db, jobId, row.category, first, second) : [],
      examplesSecond: row.only_second > 0 ? await examples(db, jobId, row.category, second, first) : [],
    })),
  )
}

/** Categories that both sources were read for, and that both can hold: only there an absence says something. */
async function readFromBoth(db: Db, first: number, second: number): Promise<CategoryId[]> {
  const rows: { source: number; category: CategoryId; info: unknown }[] = await db('read_steps')
    .join('reads', 'reads.id', 'read_steps.read_id')
    .join('sources', 'sources.id', 'reads.source_id')
    .where({ 'read_steps.pass': 'live' })
    .whereIn('sources.id', [first, second])
    .distinct('sources.id as source', 'read_steps.category as category', 'sources.info as info')
  const of = (source: number) =>
    rows.filter((row) => row.source === source && mayHold(parsed(row.info), row.category)).map((row) => row.category)
  const inSecond = of(second)
  return of(first).filter((category) => inSecond.includes(category))
}

/** Findings that either source shows live, with which of the two does. */
const inEither = (db: Db, jobId: number, first: number, second: number) =>
  db('sightings')
    .where({ job_id: jobId, condition: 'live' })
    .whereIn('source_id', [first, second])
    .groupBy('finding_id', 'category')
    .select('finding_id', 'category')
    .select(
      db.raw('MAX(source_id = ?) AS in_first', [first]),
      db.raw('MAX(source_id = ?) AS in_second', [second]),
      db.raw('COUNT(DISTINCT version) AS versions'),
    )

async function examples(
  db: Db,
  jobId: number,
  category: CategoryId,
  shownBy: number,
  notBy: number,
): Promise<Example[]> {
  const rows = await db('findings')
    .where({ 'findings.job_id': jobId, 'findings.category': category })
    .whereExists((seen) => liveIn(seen, shownBy))
    .whereNotExists((seen) => liveIn(seen, notBy))
    .orderBy('findings.happened_at', 'desc')
    .orderBy('findings.id')
    .limit(EXAMPLES)
    .select('id', 'title', 'text', 'happened_at')
  return rows.map((row) => ({
    id: Number(row.id),
    title: row.title,
    text: row.text,
    when: row.happened_at?.toISOString() ?? null,
  }))
}

// biome-ignore lint/suspicious/noExplicitAny: Knex gives subqueries no narrower type
const liveIn = (query: any, sourceId: number) =>
  query
    .from('sightings')
    .whereRaw('sightings.finding_id = findings.id')
    .where({ source_id: sourceId, condition: 'live' })
