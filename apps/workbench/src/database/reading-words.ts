import type { Knex } from 'knex'
import { parseSearch } from '../components/searchText.js'
import { isIndexed } from './conditions.js'
import type { Db } from './connection.js'
import { type FindingFilter, filtered } from './queries.js'

/**
 * The index of words gives all findings that hold a word, in no order: for a word in a tenth of a million findings that
 * takes a second, whatever page is asked for. Frequent words are on every page, so that reading findings in the order
 * that is shown finds a page of them at once.
 */

/** A stretch of the order in which a page lies. */
export type Tier = (query: Knex.QueryBuilder) => void

// So many findings are read for a page, and so many to see whether it pays.
const MOST_READ = 40_000
const SAMPLE = 2_000
// Some hold a word in the middle of another one, and do not count.
const SPARE = 50

/** The index by which findings are read in the order of their dates. */
const BY_DATE = 'findings_job_id_category_happened_at_id_index'

/**
 * The ids of a page of findings that hold frequent words, in no order. Undefined: the words are not frequent enough, or
 * the filter asks for more than words and days, and the index of words has to answer.
 */
export async function pageByReading(
  db: Db,
  jobId: number,
  filter: FindingFilter,
  tiers: readonly Tier[],
  size: number,
): Promise<number[] | undefined> {
  const words = wordsAlone(filter)
  if (words.length === 0) return undefined
  // Behind the end of a page, what has the same date comes first; what has none, last, is left to the index.
  const [equal, main] = tiers.length > 1 ? tiers : [undefined, tiers[0]]
  const sample = await read(db, jobId, filter, main as Tier, size, SAMPLE)
  if (sample.length * (MOST_READ / SAMPLE) < size) return undefined
  const ids: number[] = []
  for (const tier of [equal, main]) {
    if (!tier || ids.length >= size) continue
    const found = await read(db, jobId, filter, tier, size - ids.length + SPARE, MOST_READ)
    ids.push(...found.filter((row) => holdsAll(row, words)).map((row) => Number(row.id)))
  }
  // A page that was not filled may have ended by the limit.
  return ids.length >= size ? ids.slice(0, size) : undefined
}

/** The words of a search that asks for nothing but words, in the order of dates; none for any other. */
function wordsAlone({ words, order, standings, conversation, matching, compared }: FindingFilter): string[] {
  if (!words || standings.length > 0 || conversation !== null || matching || compared) return []
  const { terms } = parseSearch(words)
  const byDate = order === 'newest' || order === 'oldest'
  const alone = terms.every(({ kind, value, not }) => kind === 'word' && !not && isIndexed(value as string))
  return byDate && alone ? terms.map(({ value }) => value as string) : []
}

interface Read {
  id: number
  title: string
  text: string | null
}

async function read(
  db: Db,
  jobId: number,
  filter: FindingFilter,
  tier: Tier,
  most: number,
  examined: number,
): Promise<Read[]> {
  const direction = filter.order === 'oldest' ? 'asc' : 'desc'
  const { sql, bindings } = filtered(db, jobId, filter, 'reading')
    .modify(tier)
    .from(db.raw('findings FORCE INDEX (??)', [BY_DATE]))
    .orderBy('findings.happened_at', direction)
    .orderBy('findings.id', direction)
    .limit(most)
    .select('findings.id', 'findings.title', 'findings.text')
    .toSQL()
  const [rows] = await db.raw(`${sql} ROWS EXAMINED ${examined}`, bindings as never)
  return rows
}

/** Whether a text has words that begin so, as the index of words tells it: without case and without accents. */
function holdsAll({ title, text }: Read, words: readonly string[]): boolean {
  const tokens = plain(`${title} ${text ?? ''}`).split(/[^\p{L}\p{N}_]+/u)
  return words.every((word) => tokens.some((token) => token.startsWith(plain(word))))
}

const plain = (text: string): string => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase()
