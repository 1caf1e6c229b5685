import type { CategoryId } from '@lumbrin/core/categories/registry'
import { LOST_STANDINGS, STANDINGS } from '@lumbrin/core/findings/standing'
import type { Suggestions } from '../domain/finding.js'
import type { JobId } from '../domain/ids.js'
import { HAVING } from '../domain/search-text.js'
import type { Db } from './connection.js'
import { type NameKind, numbersWith } from './names.js'

const MOST_NAMES = 40
/** All numbers that say what a finding has. */
const NUMBERS = Array.from({ length: 16 }, (_, number) => number)
/** Whoever is frequent among the newest findings is offered first. */
const NEWEST = 5_000

export async function suggestionsFor(db: Db, jobId: JobId, category: CategoryId): Promise<Suggestions> {
  const mine = () => db('findings').where('findings.job_id', jobId).where('findings.category', category)
  const newest: Record<`${NameKind}_id`, number | null>[] = await mine()
    .orderBy([
      { column: 'happened_at', order: 'desc' },
      { column: 'id', order: 'desc' },
    ])
    .limit(NEWEST)
    .select('person_id', 'talk_id')
  const names = async (kind: NameKind): Promise<string[]> => {
    const frequent = mostFrequent(newest.map((finding) => finding[`${kind}_id`]))
    const known: { id: number; words: string }[] = await db('names').whereIn('id', frequent).select('id', 'words')
    known.sort((a, b) => frequent.indexOf(Number(a.id)) - frequent.indexOf(Number(b.id)))
    const others: { words: string }[] = await db('names')
      .where({ job_id: jobId, kind })
      .whereNotIn('id', frequent)
      .whereExists(mine().where(`findings.${kind}_id`, db.ref('names.id')).select(db.raw('1')))
      .orderBy('id')
      .limit(MOST_NAMES - known.length)
      .select('words')
    // A name stands before its number.
    return [...new Set([...known, ...others].map(({ words }) => words.split('\n', 1)[0] as string))]
  }
  // A look into the index for each value, where to read all of it would take as long as there are findings.
  const present = async <Value extends string | number>(column: string, values: readonly Value[]): Promise<Value[]> => {
    const one = (value: Value) => mine().where(column, value).limit(1).select({ value: column })
    const rows: { value: unknown }[] = await db.unionAll(values.map(one), true)
    return values.filter((value) => rows.some((row) => String(row.value) === String(value)))
  }
  const held = await present('has', NUMBERS)
  const standings = await present('standing', STANDINGS)
  const span = await mine().min({ first: 'happened_at' }).max({ last: 'happened_at' }).first()
  const yearOf = (date: unknown) => (date instanceof Date ? date.getUTCFullYear() : null)
  const first = yearOf(span?.first) ?? 0
  const last = yearOf(span?.last) ?? -1
  return {
    from: await names('person'),
    in: await names('talk'),
    has: HAVING.filter((having) => held.some((number) => numbersWith(having).includes(number))),
    standing: [...(standings.some((one) => LOST_STANDINGS.includes(one)) ? (['lost'] as const) : []), ...standings],
    years: Array.from({ length: Math.max(0, Math.min(50, last - first + 1)) }, (_, i) => last - i),
  }
}

/** The most frequent of some ids, the most frequent first. */
function mostFrequent(ids: readonly (number | null)[]): number[] {
  const counts = new Map<number, number>()
  for (const id of ids) if (id !== null) counts.set(id, (counts.get(id) ?? 0) + 1)
  return [...counts]
    .sort(([, a], [, b]) => b - a)
    .slice(0, MOST_NAMES)
    .map(([id]) => id)
}
