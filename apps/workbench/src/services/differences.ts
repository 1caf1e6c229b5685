import { mayHold } from '@lumbrin/core/categories/encrypted'
import { CATEGORY_IDS, type CategoryId } from '@lumbrin/core/categories/types'
import { comparability, type NotCompared } from '@lumbrin/core/findings/restore-cost'
import { sourceName } from '../components/labels.js'
import { COMPARED_PARTS, type ComparedPart, inPart } from '../database/conditions.js'
import type { Db } from '../database/connection.js'
import { allOf, filtered } from '../database/queries.js'
import type { SourceRow } from '../database/sources.js'
import { allStates, jobDevices } from '../database/states.js'
import { AppError } from '../errors.js'

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

/** What a restore of one source onto the state of another would do, and what is not known of it. */
export interface RestoreCost {
  lines: Difference[]
  notCompared: NotCompared[]
}

const EXAMPLES = 5

/**
 * What two sources of a job show, category by category. Seen as the restore of the first onto a device that looks like
 * the second: `onlyFirst` comes back, `onlySecond` is wiped, `changed` goes back to what it was.
 * @throws AppError where a source is not of this job
 */
export async function restoreCost(db: Db, jobId: number, first: number, second: number): Promise<RestoreCost> {
  const [states, { sources }] = await Promise.all([allStates(db, jobId), jobDevices(db, jobId)])
  const { compared, not } = comparability(
    CATEGORY_IDS.filter((id) => !UNCOMPARABLE.includes(id)),
    states,
    requireSource(sources, first),
    requireSource(sources, second),
  )
  const rows = await db
    .from(inEither(db, jobId, first, second).as('pairs'))
    .join('findings', 'findings.id', 'pairs.finding_id')
    .whereIn('pairs.category', compared)
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
  const lines = await Promise.all(
    compared.map(async (category) => {
      const row = rows.find((one) => one.category === category)
      return {
        category,
        onlyFirst: Number(row?.only_first ?? 0),
        onlySecond: Number(row?.only_second ?? 0),
        both: Number(row?.both_of_them ?? 0),
        changed: Number(row?.changed ?? 0),
        bytesFirst: Number(row?.bytes_first ?? 0),
        bytesSecond: Number(row?.bytes_second ?? 0),
        examplesFirst: row?.only_first > 0 ? await examples(db, jobId, category, first, second, 'comes-back') : [],
        examplesSecond: row?.only_second > 0 ? await examples(db, jobId, category, first, second, 'wiped') : [],
      }
    }),
  )
  return { lines, notCompared: not }
}

// Made of other categories' items, or of what no list of the source names: a restore does nothing to them.
const UNCOMPARABLE: readonly CategoryId[] = ['places', 'strays']

function requireSource(sources: readonly SourceRow[], id: number) {
  const source = sources.find((one) => one.id === id)
  if (!source) throw new AppError('not-found', 'This job has no such source.')
  const { info } = source
  return {
    id,
    name: sourceName(info),
    ofAccount: info.kind === 'cloud-library',
    mayHold: (category: CategoryId) => mayHold(info, category),
  }
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
  first: number,
  second: number,
  part: ComparedPart,
): Promise<Example[]> {
  const rows = await filtered(db, jobId, { ...allOf(category), compared: { first, second, part } })
    .orderBy('findings.happened_at', 'desc')
    .orderBy('findings.id')
    .limit(EXAMPLES)
    .select('id', 'title', 'text', 'happened_at')
  return rows.map(toExample)
}

const toExample = (row: { id: number; title: string; text: string | null; happened_at: Date | null }): Example => ({
  id: Number(row.id),
  title: row.title,
  text: row.text,
  when: row.happened_at?.toISOString() ?? null,
})

/** One item of a comparison, as its table lists it. */
export interface ComparedItem extends Example {
  category: CategoryId
  part: ComparedPart
}

const PAGE = 1000

/** Every item in which two sources differ, category by category. */
export async function* comparedItems(
  db: Db,
  jobId: number,
  first: number,
  second: number,
): AsyncGenerator<ComparedItem> {
  const { lines } = await restoreCost(db, jobId, first, second)
  for (const { category } of lines)
    for (const part of COMPARED_PARTS.filter((one) => one !== 'both'))
      for (let after = 0; ; ) {
        const rows = await db('findings')
          .where({ 'findings.job_id': jobId, category })
          .where('findings.id', '>', after)
          .modify((query) => inPart(query, { first, second, part }))
          .orderBy('findings.id')
          .limit(PAGE)
          .select('id', 'title', 'text', 'happened_at')
        for (const row of rows) yield { category, part, ...toExample(row) }
        if (rows.length < PAGE) break
        after = Number(rows.at(-1).id)
      }
}
