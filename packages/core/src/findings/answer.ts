/** What the brief is answered with at the end. */
export type Answer = 'found' | 'found in part' | 'not found'

/** Findings that match the brief, by whether they are whole and can be handed over. */
export interface MatchCounts {
  whole: number
  partial: number
  unread: boolean
}

/** Answers the brief from what matches it, with the reason. */
export function answerOf({ whole, partial, unread }: MatchCounts): { answer: Answer; why: string } {
  const more = unread ? ' Not every source was read for it yet.' : ''
  if (whole > 0)
    return {
      answer: 'found',
      why: `${whole} matching items are gone from the device and can be handed over whole.${more}`,
    }
  if (partial > 0) return { answer: 'found in part', why: `Of ${partial} matching items only parts are left.${more}` }
  return { answer: 'not found', why: `No matching item that is gone from the device was seen in any source.${more}` }
}
