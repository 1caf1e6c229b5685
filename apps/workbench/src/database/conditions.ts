import { endOfDay, startOfDay } from '@lumbrin/core/io/time-zone'
import { formatISO, lastDayOfMonth, parseISO } from 'date-fns'
import type { Knex } from 'knex'
import type { Compared } from '../domain/difference.js'
import type { JobId } from '../domain/ids.js'
import { parseSearch, type Search, type Term } from '../domain/search-text.js'
import { type NameKind, numbersWith } from './names.js'

/** How the words of a search are looked for: in their index, or in each finding that is read. */
export type WordsBy = 'index' | 'reading'

/** Findings that one of two sources shows live, or both. What is in a bin counts as not there. */
export function inPart(query: Knex.QueryBuilder, { first, second, part }: Compared): void {
  const live = (source: number): [string, number[]] => [
    "SELECT 1 FROM sightings one WHERE one.finding_id = findings.id AND one.source_id = ? AND one.condition = 'live'",
    [source],
  ]
  const [sql, ofFirst] = live(first)
  const [, ofSecond] = live(second)
  query.whereRaw(`${part === 'wiped' ? 'NOT ' : ''}EXISTS (${sql})`, ofFirst)
  query.whereRaw(`${part === 'comes-back' ? 'NOT ' : ''}EXISTS (${sql})`, ofSecond)
  if (part === 'changed')
    query.whereRaw(
      `(SELECT COUNT(DISTINCT version) FROM sightings one WHERE one.finding_id = findings.id
        AND one.source_id IN (?, ?) AND one.condition = 'live') > 1`,
      [first, second],
    )
}

/** Findings of the days from one to another in a zone, both included. */
export function between(query: Knex.QueryBuilder, fromDay: string | null, toDay: string | null, zone: string): void {
  if (fromDay) query.where('findings.happened_at', '>=', startOfDay(fromDay, zone))
  if (toDay) query.where('findings.happened_at', '<', endOfDay(toDay, zone))
}

/** Findings of a month such as 2026-05 in a zone. */
export function inMonth(query: Knex.QueryBuilder, month: string, zone: string): void {
  const last = formatISO(lastDayOfMonth(parseISO(month)), { representation: 'date' })
  between(query, `${month}-01`, last, zone)
}

/** What is searched for: words and what stands with them, such as days, which are days of a zone. */
export interface SearchText {
  text: string
  zone: string
}

/** Everything that a search says must hold. What could not be understood of it is left out. */
export function matchSearch(
  query: Knex.QueryBuilder,
  jobId: JobId,
  { text, zone }: SearchText,
  by: WordsBy = 'index',
): void {
  const search = parseSearch(text)
  const { terms, before, after } = search
  const indexed = by === 'index' ? beginnings(search) : []
  if (indexed.length > 0)
    query.whereRaw('MATCH (findings.title, findings.text) AGAINST (? IN BOOLEAN MODE)', [
      indexed.map((word) => `+${word}*`).join(' '),
    ])
  for (const term of terms)
    if (term.kind !== 'word' || term.not || !indexed.includes(term.value)) matchTerm(query, jobId, term)
  between(query, after, null, zone)
  if (before) query.where('findings.happened_at', '<', startOfDay(before, zone))
}

function matchTerm(query: Knex.QueryBuilder, jobId: JobId, term: Term): void {
  const { not } = term
  switch (term.kind) {
    case 'word':
    case 'phrase':
      if (not) query.whereNot((some) => matchPlainly(some, term.value))
      else matchPlainly(query, term.value)
      break
    case 'standing':
      oneOf(query, 'findings.standing', term.value, not)
      break
    case 'has':
      oneOf(query, 'findings.has', numbersWith(term.value), not)
      break
    default:
      matchName(query, jobId, term.kind === 'from' ? 'person' : 'talk', term.value, not)
  }
}

function oneOf(query: Knex.QueryBuilder, column: string, values: readonly (string | number)[], not: boolean): void {
  if (not) query.whereNotIn(column, [...values])
  else query.whereIn(column, [...values])
}

/** Findings that point to one of the names that hold a text. */
function matchName(query: Knex.QueryBuilder, jobId: JobId, kind: NameKind, text: string, not: boolean): void {
  const column = `findings.${kind}_id`
  const named = (names: Knex.QueryBuilder) =>
    names.from('names').where({ job_id: jobId, kind }).where('words', 'like', pattern(text)).select('id')
  if (not) query.where((some) => some.whereNull(column).orWhereNotIn(column, named))
  else query.whereIn(column, named)
}

// Words that InnoDB's index leaves out by default (INFORMATION_SCHEMA.INNODB_FT_DEFAULT_STOPWORD).
const STOP_WORDS = new Set(
  'a about an are as at be by com de en for from how i in is it la of on or that the this to was what when where who will with und www'.split(
    ' ',
  ),
)

/** True for a word that is looked for in the index of words. */
export const isIndexed = (word: string) =>
  /^[\p{L}\p{N}]{3,}$/u.test(word) &&
  !/[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]/u.test(word) &&
  !STOP_WORDS.has(word.toLowerCase())

/**
 * The words, also those of phrases, with which a word of a finding must begin: what the index of words is asked for. The
 * longest comes first, being the rarest as a rule: the index ends at once where the first is nowhere.
 */
export const beginnings = ({ terms }: Search): string[] =>
  terms
    .flatMap(({ kind, value, not }) => {
      if (not || (kind !== 'word' && kind !== 'phrase')) return []
      return (kind === 'word' ? [value] : value.split(NO_WORD)).filter(isIndexed)
    })
    .sort((a, b) => b.length - a.length)

// The index of words parts texts so.
const NO_WORD = /[^\p{L}\p{N}_]+/u

const pattern = (text: string) => `%${text.replace(/[\\%_]/g, '\\$&')}%`

function matchPlainly(query: Knex.QueryBuilder, text: string): void {
  // A text that is not there holds no word, which a comparison with it alone would not say.
  query.whereRaw('(findings.title LIKE ? OR COALESCE(findings.text LIKE ?, FALSE))', [pattern(text), pattern(text)])
}
