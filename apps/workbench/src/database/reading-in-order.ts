import type { Knex } from 'knex'
import type { FindingFilter } from '../domain/filter.js'
import { type Order, SHORTEST_PAGE } from '../domain/findings-query.js'
import type { JobId } from '../domain/ids.js'
import { parseSearch, type Term } from '../domain/search-text.js'
import { beginnings } from './conditions.js'
import { type Db, transact } from './connection.js'
import { filtered } from './queries.js'

/**
 * The full-text index returns all findings that contain a word, in no order: for a word in a tenth of half a million
 * findings that takes half a second, whichever page is asked for. A frequent word is on every page, so that a scan in the
 * order shown fills a page at once. A search that is narrow for another reason (a person, a standing) is answered by the
 * index of that column.
 */

/** A stretch of the order in which a page lies. */
export type Tier = (query: Knex.QueryBuilder) => void
/** Puts a query into the order that is shown. */
export type InOrder = (query: Knex.QueryBuilder) => Knex.QueryBuilder

// So many rows are read for a page, so many to see whether it pays, and so many by an index of something rare.
const MOST_READ = 40_000
const SAMPLE = 3_000
// The texts of the rare are scattered, where its index alone is soon read.
const MOST_NARROW = 60_000
const MOST_NARROW_TEXTS = 20_000
// Some hold a word in the middle of another one, and do not count.
const SPARE = 50

/** The index that holds findings in each order. */
const INDEX_OF: Record<Order, string> = {
  newest: 'findings_by_date',
  oldest: 'findings_by_date',
  match: 'findings_by_match',
  title: 'findings_by_title',
  largest: 'findings_by_size',
}

/** One request: at most `size` findings of a filter, from one range of the order shown. */
export interface Page {
  jobId: JobId
  filter: FindingFilter
  tier: Tier
  inOrder: InOrder
  size: number
}

/** The first findings of a stretch, in no order; `more`: others follow them there. */
export interface Found {
  ids: number[]
  more: boolean
}

/**
 * A page of what a search finds: full, or as many of its first ones as are found soon. Undefined: reading does not find
 * enough of them, and the index of words has to answer.
 */
export async function readInOrder(db: Db, page: Page): Promise<Found | undefined> {
  const { filter } = page
  if (!filter.words || filter.compared) return undefined
  const ordered = { index: INDEX_OF[filter.order], inOrder: true }
  const sample = await read(db, page, ordered, SAMPLE)
  if (sample.sure) return sample
  const index = narrowIndex(filter)
  if (index !== undefined) {
    const holdsWords = parseSearch(filter.words).terms.some(({ kind }) => kind === 'word' || kind === 'phrase')
    const narrow = await read(db, page, { index, inOrder: false }, holdsWords ? MOST_NARROW_TEXTS : MOST_NARROW)
    if (narrow.sure) return narrow
  }
  const least = Math.min(page.size, SHORTEST_PAGE)
  if (sample.ids.length * (MOST_READ / SAMPLE) < least + SPARE) return undefined
  const most = await read(db, { ...page, size: least }, ordered, MOST_READ)
  return most.sure ? most : undefined
}

/**
 * The index of what a filter asks for beside words, null: the database is to choose among several, undefined: it asks for
 * nothing else that has one.
 */
function narrowIndex(filter: FindingFilter): string | null | undefined {
  const { terms, before, after } = parseSearch(filter.words)
  const asks = (kind: Term['kind']) => terms.some((term) => term.kind === kind && !term.not)
  if (asks('from')) return 'findings_of_person'
  if (asks('in')) return 'findings_of_talk'
  if (filter.conversation !== null) return 'findings_of_conversation'
  const byDay = before ?? after ?? filter.fromDay ?? filter.toDay
  const other = asks('has') || asks('standing') || filter.standings.length > 0 || filter.matching
  return other || byDay !== null ? null : undefined
}

/** The way by which findings are read; `index` null: as the database thinks best. `inOrder`: in the order of the page. */
interface Way {
  index: string | null
  inOrder: boolean
}

/** Reads at most so many rows; `sure`: these are the first of the page, and all of it or enough to be shown. */
async function read(
  db: Db,
  { jobId, filter, tier, inOrder, size }: Page,
  way: Way,
  examined: number,
): Promise<Found & { sure: boolean }> {
  const chosen = filtered(db, jobId, filter, 'reading').modify(tier)
  if (way.index !== null) chosen.from(db.raw('findings FORCE INDEX (??)', [way.index]))
  const limit = size + SPARE
  const { sql, bindings } = inOrder(chosen).limit(limit).select('findings.id').toSQL()
  // Whether the limit of rows ended it is told in a warning, to the same connection alone.
  const { rows, stopped } = await transact(db, async (trx) => {
    const [rows] = (await trx.raw(`${sql} ROWS EXAMINED ${examined}`, bindings as never)) as [{ id: number }[]]
    const [[warnings]] = await trx.raw('SELECT @@warning_count AS count')
    return { rows, stopped: Number(warnings.count) > 0 }
  })
  const ids = await havingAll(
    db,
    rows.map(({ id }) => Number(id)),
    beginnings(parseSearch(filter.words)),
  )
  const isAll = !stopped && rows.length < limit
  const isEnough = ids.length >= Math.min(size, SHORTEST_PAGE) && (way.inOrder || !stopped)
  return { ids: ids.slice(0, size), more: !isAll || ids.length > size, sure: isAll || isEnough }
}

interface Text {
  id: number
  title: string
  text: string | null
}

/** Of these findings, in the same order, those in which each of the words is the beginning of a word. */
async function havingAll(db: Db, ids: readonly number[], words: readonly string[]): Promise<number[]> {
  if (words.length === 0) return [...ids]
  const texts: Text[] = await db('findings').whereIn('id', ids).select('id', 'title', 'text')
  const holding = new Set(texts.filter((one) => holdsAll(one, words)).map(({ id }) => Number(id)))
  return ids.filter((id) => holding.has(id))
}

/** Whether a text has words that begin so, as the index of words tells it: without case and without accents. */
function holdsAll({ title, text }: Text, words: readonly string[]): boolean {
  const tokens = plain(`${title} ${text ?? ''}`).split(/[^\p{L}\p{N}_]+/u)
  return words.every((word) => tokens.some((token) => token.startsWith(plain(word))))
}

const plain = (text: string): string => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase()
