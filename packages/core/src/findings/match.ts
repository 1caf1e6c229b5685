import type { CategoryId } from '../categories/registry.js'
import type { Json } from '../categories/types.js'
import { isLost, type Standing } from './standing.js'
import { type LossWindow, overlaps } from './window.js'

/** What of a brief a finding is held against. */
export interface Sought {
  categories: readonly CategoryId[]
  /** Each a word, in lower case. */
  words: readonly string[]
  /** Names or addresses, in lower case. */
  people: readonly string[]
  /** Days between which it was lost, as milliseconds. */
  lost: LossWindow | null
}

/** What of a finding is held against a brief. */
export interface Found {
  category: CategoryId
  standing: Standing
  title: string
  text: string | null
  fields: { [key: string]: Json }
  window: LossWindow | undefined
}

export type MatchReason = 'category' | 'words' | 'people' | 'lost' | 'window'

/** How well a finding fits the brief, from 0 to 100, and by what. */
export interface Match {
  score: number
  reasons: MatchReason[]
}

// What was asked for by name counts more than that something is gone at all.
const WEIGHT: Record<MatchReason, number> = { words: 4, people: 4, category: 3, window: 2, lost: 2 }
/** From this score on a finding matches the brief. */
export const MATCHES_FROM = 60

/**
 * Holds a finding against a brief: each part that the brief names counts, and nothing else does. What is of another kind
 * than was asked for never matches, however much else of it fits.
 */
export function matchOf(sought: Sought, found: Found): Match {
  const asked: [MatchReason, boolean][] = [['lost', isLost(found.standing, found.window)]]
  if (sought.categories.length > 0) asked.push(['category', sought.categories.includes(found.category)])
  if (sought.words.length > 0) {
    const words = `${found.title}\n${found.text ?? ''}`.toLowerCase()
    asked.push(['words', sought.words.some((word) => words.includes(word))])
  }
  if (sought.people.length > 0) {
    const people = peopleOf(found)
    asked.push(['people', sought.people.some((person) => people.includes(person))])
  }
  // When something went from a device where it never was seen, nobody can say.
  if (sought.lost && (found.standing !== 'elsewhere' || found.window))
    asked.push(['window', found.window !== undefined && overlaps(found.window, sought.lost)])
  const reasons = asked.flatMap(([reason, met]) => (met ? [reason] : []))
  const sum = (list: readonly MatchReason[]) => list.reduce((all, reason) => all + WEIGHT[reason], 0)
  const score = Math.round((100 * sum(reasons)) / sum(asked.map(([reason]) => reason)))
  const otherKind = sought.categories.length > 0 && !reasons.includes('category')
  return { score: otherKind ? Math.min(score, MATCHES_FROM - 1) : score, reasons }
}

const PEOPLE_FIELDS = ['sender', 'senderName', 'recipients', 'conversation', 'conversationTitle', 'address', 'name']

function peopleOf({ title, fields }: Found): string {
  return [title, ...PEOPLE_FIELDS.map((name) => JSON.stringify(fields[name] ?? ''))].join('\n').toLowerCase()
}
