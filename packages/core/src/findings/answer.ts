/** What the brief is answered with (docs/truth.md, rule 14). */
export type Answer = 'found' | 'found-in-part' | 'not-found-so-far' | 'not-found'

/** Something that keeps "not found so far" from being "not found". */
export interface Gap {
  kind: 'no-source' | 'not-read' | 'locked' | 'read-gaps' | 'away' | 'not-added' | 'cannot-hold'
  /** In words, with the name of the source. */
  words: string
  sourceId: number | null
}

/** Findings that match the brief and are gone from the device, and what was looked through for them. */
export interface AnswerFacts {
  /** Matching findings that can be handed over whole. */
  whole: number
  /** Matching findings of which parts are left, or whose content cannot be had. */
  partial: number
  /** Matching findings that are only on another device or in the account. */
  elsewhere: number
  gaps: readonly Gap[]
  /** Sources that were read whole for what is sought, by name. */
  lookedThrough: readonly string[]
}

/** Answers the brief from what matches it, with the reason. */
export function answerOf({ whole, partial, elsewhere, gaps, lookedThrough }: AnswerFacts): {
  answer: Answer
  why: string
} {
  const more = gaps.length > 0 ? ' Not everything was looked through yet.' : ''
  if (whole > 0)
    return {
      answer: 'found',
      why: `${items(whole, 'is', 'are')} gone from the device and can be handed over whole.${more}`,
    }
  if (partial > 0)
    return { answer: 'found-in-part', why: `${items(partial, 'is', 'are')} gone, and only parts can be had.${more}` }
  const there =
    elsewhere > 0
      ? ` ${items(elsewhere, 'is', 'are')} on another device or in the account: look whether they are what is sought.`
      : ''
  if (gaps.length > 0 || elsewhere > 0)
    return {
      answer: 'not-found-so-far',
      why: `Nothing that matches and is gone from the device was seen so far.${there}${more}`,
    }
  return {
    answer: 'not-found',
    why: `Nothing that matches and is gone from the device is in any source. Looked through to the end: ${lookedThrough.join(', ')}.`,
  }
}

const items = (count: number, one: string, several: string) =>
  count === 1 ? `One matching item ${one}` : `${count} matching items ${several}`
