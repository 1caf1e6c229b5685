import { STANDINGS, type Standing } from '@lumbrin/core/findings/standing'

/** A search as it is typed, taken apart. */
export interface Search {
  /** Each must stand in the title or the text, as a word's beginning. */
  words: string[]
  /** Each must stand there letter by letter. */
  phrases: string[]
  /** Sender or receiver; conversation. */
  from: string[]
  in: string[]
  /** Days, such as 2026-05-01; `before` excludes its day, `after` includes it. */
  before: string | null
  after: string | null
  standings: Standing[]
  has: ('attachment' | 'content' | 'place' | 'reply')[]
}

/** What a search may say beside words, with an example of each, for the field's help. */
export const OPERATORS: [name: string, example: string][] = [
  ['"…"', '"folding stage"'],
  ['from:', 'from:bram'],
  ['in:', 'in:"Tour crew"'],
  ['after:', 'after:2026-05-01'],
  ['before:', 'before:2026-06-01'],
  ['standing:', 'standing:rebuilt'],
  ['has:', 'has:attachment, has:content, has:place, has:reply'],
]

const HAS = ['attachment', 'content', 'place', 'reply'] as const
const TOKEN = /(?:(from|in|before|after|standing|has):)?(?:"([^"]*)"?|(\S+))/giu

/** Takes a search apart. What looks like an operator, but makes no sense, is searched for as it stands. */
export function parseSearch(text: string): Search {
  const search: Search = {
    words: [],
    phrases: [],
    from: [],
    in: [],
    before: null,
    after: null,
    standings: [],
    has: [],
  }
  for (const [whole, name, quoted, plain] of text.matchAll(TOKEN)) {
    const value = (quoted ?? plain ?? '').trim()
    if (value === '' || !take(search, name?.toLowerCase(), value, quoted !== undefined)) {
      if (whole.trim() !== '' && value !== '') search.words.push(whole)
    }
  }
  return search
}

function take(search: Search, name: string | undefined, value: string, quoted: boolean): boolean {
  if (name === undefined) (quoted ? search.phrases : search.words).push(value)
  else if (name === 'from' || name === 'in') search[name].push(value)
  else if (name === 'before' || name === 'after') {
    if (!/^\d{4}-\d{2}-\d{2}$/.test(value) || Number.isNaN(Date.parse(value))) return false
    search[name] = value
  } else if (name === 'standing') {
    const standing = STANDINGS.find((one) => one === value.toLowerCase())
    if (!standing) return false
    search.standings.push(standing)
  } else {
    const has = HAS.find((one) => one === value.toLowerCase())
    if (!has) return false
    search.has.push(has)
  }
  return true
}

/** The words and phrases that are to be marked in what was found. */
export const wordsToMark = (text: string): string[] => {
  const { words, phrases } = parseSearch(text)
  return [...words, ...phrases]
}
