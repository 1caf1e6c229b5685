import { LOST_STANDINGS, STANDINGS, type Standing } from '@lumbrin/core/findings/standing'

export const HAVING = ['attachment', 'content', 'place', 'reply'] as const
export type Having = (typeof HAVING)[number]

/** One thing that a search asks for, or with a minus before it leaves out. */
export type Term = { not: boolean } & (
  | { kind: 'word' | 'phrase' | 'from' | 'in'; value: string }
  | { kind: 'standing'; value: readonly Standing[] }
  | { kind: 'has'; value: Having }
)

/** A search as it is typed, taken apart. */
export interface Search {
  /** Each must hold. */
  terms: Term[]
  /** Days, such as 2026-05-01; `before` excludes its day, `after` includes it. */
  before: string | null
  after: string | null
  /** What could not be understood, and was left out. */
  problems: { text: string; why: string }[]
}

/** What a search may say beside words, with an example of each, for the field's help. */
export const OPERATORS: [name: string, example: string][] = [
  ['"…"', '"folding stage"'],
  ['-', '-rehearsal'],
  ['from:', 'from:bram'],
  ['in:', 'in:"Tour crew"'],
  ['after:', 'after:2026-05'],
  ['before:', 'before:2026-06-01'],
  ['standing:', 'standing:lost'],
  ['has:', 'has:attachment'],
]

/**
 * search   = *( term / space )
 * term     = [ "-" ] ( operator ":" value / quoted / word )
 * value    = quoted / word
 * quoted   = %x22 *any %x22           ; the last quote may be missing
 */
const TERM = /(-)?(?:(from|in|before|after|standing|has):(?:"([^"]*)"?|(\S*))|"([^"]*)"?|(\S+))/giu

/** Takes a search apart. Values in any case, in quotes or without. */
export function parseSearch(text: string): Search {
  const search: Search = { terms: [], before: null, after: null, problems: [] }
  for (const [whole, minus, operator, quoted, plain, phrase, word] of text.matchAll(TERM)) {
    const not = minus !== undefined
    if (operator !== undefined) {
      const why = takeOperator(search, operator.toLowerCase(), (quoted ?? plain ?? '').trim(), not)
      if (why) search.problems.push({ text: whole, why })
    } else if (phrase !== undefined) {
      if (phrase.trim() !== '') search.terms.push({ kind: 'phrase', value: phrase.trim(), not })
    } else if (word !== undefined && word !== '-') search.terms.push({ kind: 'word', value: word, not })
  }
  return search
}

const WHOM = 'a name or number is missing behind it'
const DATES = 'a date is a year, a month or a day: 2026, 2026-05 or 2026-05-01'
const LIST = new Intl.ListFormat('en', { type: 'disjunction' })

/** Takes one operator with its value; says what is wrong with it. */
function takeOperator(search: Search, name: string, value: string, not: boolean): string | undefined {
  switch (name) {
    case 'from':
    case 'in':
      if (value === '') return WHOM
      search.terms.push({ kind: name, value, not })
      return undefined
    case 'before':
    case 'after': {
      const day = firstDayOf(value)
      if (day === undefined) return DATES
      if (not) return `say ${name === 'before' ? 'after' : 'before'}: instead`
      search[name] = day
      return undefined
    }
    case 'standing': {
      const standings = standingsOf(value.toLowerCase())
      if (!standings) return `it is one of ${LIST.format([...STANDINGS, 'lost'])}`
      search.terms.push({ kind: 'standing', value: standings, not })
      return undefined
    }
    default: {
      const having = HAVING.find((one) => one === value.toLowerCase())
      if (!having) return `it is one of ${LIST.format(HAVING)}`
      search.terms.push({ kind: 'has', value: having, not })
      return undefined
    }
  }
}

const standingsOf = (value: string): readonly Standing[] | undefined => {
  if (value === 'lost') return LOST_STANDINGS
  const one = STANDINGS.find((standing) => standing === value)
  return one && [one]
}

/** The first day of a year, a month or a day; undefined: it is none of them. */
function firstDayOf(value: string): string | undefined {
  const [, year, month = '01', day = '01'] = /^(\d{4})(?:-(\d{2})(?:-(\d{2}))?)?$/.exec(value) ?? []
  if (year === undefined) return undefined
  const text = `${year}-${month}-${day}`
  const at = new Date(`${text}T00:00:00Z`)
  return !Number.isNaN(at.getTime()) && at.toISOString().startsWith(text) ? text : undefined
}

/** The words and phrases that are to be marked in what was found. */
export const wordsToMark = (text: string): string[] =>
  parseSearch(text).terms.flatMap((term) =>
    (term.kind === 'word' || term.kind === 'phrase') && !term.not ? [term.value] : [],
  )
