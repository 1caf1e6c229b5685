import type { CategoryId } from '@lumbrin/core/categories/types'
import { HAVING, type Having } from '../components/searchText.js'
import type { Db } from './connection.js'
import { type NameKind, numbersWith } from './names.js'

/** What a search may ask of a category, as far as it finds something there. */
export interface Suggestions {
  from: string[]
  in: string[]
  has: Having[]
  years: number[]
}

const MOST_NAMES = 40

export async function suggestionsFor(db: Db, jobId: number, category: CategoryId): Promise<Suggestions> {
  const mine = () => db('findings').where({ 'findings.job_id': jobId, category })
  const names = async (kind: NameKind): Promise<string[]> => {
    const column = `findings.${kind}_id`
    // Counted by number, from an index alone; only the few that are offered are then looked up.
    const most = mine().whereNotNull(column).groupBy(column).orderByRaw('COUNT(*) DESC').limit(MOST_NAMES)
    const rows: { words: string }[] = await db
      .from(most.select({ id: column, findings: db.raw('COUNT(*)') }).as('most'))
      .join('names', 'names.id', 'most.id')
      .orderBy('most.findings', 'desc')
      .select('words')
    // A name stands before its number.
    return [...new Set(rows.map(({ words }) => words.split('\n', 1)[0] as string))]
  }
  const held: number[] = await mine().distinct('has').pluck('has')
  const span = await mine().min({ first: 'happened_at' }).max({ last: 'happened_at' }).first()
  const yearOf = (date: unknown) => (date instanceof Date ? date.getUTCFullYear() : null)
  const first = yearOf(span?.first) ?? 0
  const last = yearOf(span?.last) ?? -1
  return {
    from: await names('person'),
    in: await names('talk'),
    has: HAVING.filter((having) => held.some((number) => numbersWith(having).includes(Number(number)))),
    years: Array.from({ length: Math.max(0, Math.min(50, last - first + 1)) }, (_, i) => last - i),
  }
}
