import { describe, expect, test } from 'vitest'
import { type AnswerFacts, answerOf, type Gap } from './answer.js'

const GAP: Gap = { kind: 'not-read', words: 'Phone: it was not read for this yet', sourceId: 1 }
const facts = (part: Partial<AnswerFacts> = {}): AnswerFacts => ({
  whole: 0,
  partial: 0,
  elsewhere: 0,
  gaps: [],
  lookedThrough: ['Phone (2026-11-14)', 'Backup of May'],
  ...part,
})

// docs/truth.md, rule 14.
describe('the answer to a brief', () => {
  test.each<[Partial<AnswerFacts>, string]>([
    [{}, 'not-found'],
    [{ gaps: [GAP] }, 'not-found-so-far'],
    [{ elsewhere: 2 }, 'not-found-so-far'],
    [{ elsewhere: 2, gaps: [GAP] }, 'not-found-so-far'],
    [{ partial: 1 }, 'found-in-part'],
    [{ partial: 1, elsewhere: 4, gaps: [GAP] }, 'found-in-part'],
    [{ whole: 1 }, 'found'],
    [{ whole: 1, partial: 3, elsewhere: 4, gaps: [GAP] }, 'found'],
  ])('of %j is “%s”', (part, answer) => {
    expect(answerOf(facts(part)).answer).toBe(answer)
  })

  test('that nothing was found names all that was looked through', () => {
    const { why } = answerOf(facts())
    expect(why).toContain('Phone (2026-11-14)')
    expect(why).toContain('Backup of May')
  })

  test('says while something is open that not everything was looked through', () => {
    for (const part of [{ whole: 1 }, { partial: 1 }, {}]) {
      expect(answerOf(facts({ ...part, gaps: [GAP] })).why).toContain('Not everything was looked through yet')
      expect(answerOf(facts(part)).why).not.toContain('Not everything')
    }
  })

  test('speaks of one item as of one, and of several as of several', () => {
    expect(answerOf(facts({ whole: 1 })).why).toContain('One matching item is gone')
    expect(answerOf(facts({ whole: 2 })).why).toContain('2 matching items are gone')
    expect(answerOf(facts({ partial: 1 })).why).toContain('One matching item is gone')
    expect(answerOf(facts({ elsewhere: 1 })).why).toContain('One matching item is on another device')
    expect(answerOf(facts({ elsewhere: 3 })).why).toContain('3 matching items are on another device')
  })
})
