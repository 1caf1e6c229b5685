import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { TimedItem } from '@lumbrin/core/findings/item-time'
import type { ComparedPart, Difference, Example } from '../domain/difference.js'
import type { JobId } from '../domain/ids.js'
import { inPart } from './conditions.js'
import type { Db } from './connection.js'
import { parsed } from './json.js'
import { allOf, filtered } from './queries.js'

type Counts = Omit<Difference, 'examplesFirst' | 'examplesSecond'>

/** How two sources of a job differ, category by category; a category of which neither shows anything is left out. */
export async function countDifferences(
  db: Db,
  jobId: JobId,
  first: number,
  second: number,
  categories: readonly CategoryId[],
): Promise<Counts[]> {
  const rows = await db
    .from(inEither(db, jobId, first, second).as('pairs'))
    .join('findings', 'findings.id', 'pairs.finding_id')
    .whereIn('pairs.category', [...categories])
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
  return rows.map((row) => ({
    category: row.category,
    onlyFirst: Number(row.only_first),
    onlySecond: Number(row.only_second),
    both: Number(row.both_of_them),
    changed: Number(row.changed),
    bytesFirst: Number(row.bytes_first),
    bytesSecond: Number(row.bytes_second),
  }))
}

/** Findings that either source shows live, with which of the two does. */
const inEither = (db: Db, jobId: JobId, first: number, second: number) =>
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

/** One category of one part of what tells two sources apart. */
interface Stretch {
  jobId: JobId
  category: CategoryId
  first: number
  second: number
  part: ComparedPart
}

/** The newest few items of a part. */
export async function newestDifferences(db: Db, stretch: Stretch, most: number): Promise<Example[]> {
  const { jobId, category, ...compared } = stretch
  const rows = await filtered(db, jobId, { ...allOf(category), compared })
    .orderBy('findings.happened_at', 'desc')
    .orderBy('findings.id')
    .limit(most)
    .select('id', 'title', 'text', 'happened_at')
  return rows.map(toExample)
}

const PAGE = 1000

/** Every item of a part, in the order of their ids. */
export async function* allDifferences(
  db: Db,
  { jobId, category, ...compared }: Stretch,
): AsyncGenerator<Example & TimedItem> {
  for (let after = 0; ; ) {
    const rows: (Parameters<typeof toExample>[0] & { fields: unknown })[] = await db('findings')
      .join('sightings', 'sightings.id', 'findings.best_sighting_id')
      .where('findings.job_id', jobId)
      .where('findings.category', category)
      .where('findings.id', '>', after)
      .modify((query) => inPart(query, compared))
      .orderBy('findings.id')
      .limit(PAGE)
      .select('findings.id', 'findings.title', 'findings.text', 'findings.happened_at', 'sightings.fields')
    yield* rows.map((row) => ({ ...toExample(row), fields: parsed<TimedItem['fields']>(row.fields) }))
    if (rows.length < PAGE) return
    after = Number(rows.at(-1)?.id)
  }
}

const toExample = (row: { id: number; title: string; text: string | null; happened_at: Date | null }): Example => ({
  id: Number(row.id),
  title: row.title,
  text: row.text,
  when: row.happened_at?.toISOString() ?? null,
})
