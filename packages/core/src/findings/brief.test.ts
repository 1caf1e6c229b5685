import { describe, expect, it } from 'vitest'
import { type AnswerFacts, answerOf } from './answer.js'
import { type Found, MATCHES_FROM, matchOf, type Sought } from './match.js'
import { overlaps } from './window.js'

const day = (n: number) => Date.UTC(2026, 9, n)

/** Some state says that it is gone. */
const GONE = { from: null, to: day(20) }

const sought = (part: Partial<Sought>): Sought => ({ categories: [], words: [], people: [], lost: null, ...part })
const found = (part: Partial<Found>): Found => ({
  category: 'messages',
  standing: 'rebuilt',
  title: 'Bram Okafor',
  text: 'The folding stage is 3.40 m wide',
  fields: {},
  window: GONE,
  ...part,
})

describe('the match with a brief', () => {
  it('counts what the brief names, and nothing else', () => {
    expect(matchOf(sought({}), found({}))).toEqual({ score: 100, reasons: ['lost'] })
    expect(matchOf(sought({}), found({ standing: 'kept', window: undefined }))).toEqual({ score: 0, reasons: [] })
    expect(matchOf(sought({}), found({ window: undefined })).reasons).toEqual([])
  })

  it.each<[string, Partial<Sought>, Partial<Found>, string[]]>([
    ['a category', { categories: ['messages', 'notes'] }, {}, ['lost', 'category']],
    ['another category', { categories: ['photos'] }, {}, ['lost']],
    ['a word of the text, whatever its case', { words: ['stage'] }, { text: 'STAGE left' }, ['lost', 'words']],
    ['a word of the title', { words: ['plan'] }, { title: 'Plan of seats', text: null }, ['lost', 'words']],
    ['one of several words', { words: ['curtain', 'wide'] }, {}, ['lost', 'words']],
    ['none of the words', { words: ['curtain'] }, {}, ['lost']],
    ['a person in the title', { people: ['bram'] }, {}, ['lost', 'people']],
    [
      'a person among the receivers',
      { people: ['odile'] },
      { fields: { recipients: ['Odile Varga'] } },
      ['lost', 'people'],
    ],
    [
      'a number of the sender',
      { people: ['+12025550107'] },
      { fields: { sender: '+12025550107' } },
      ['lost', 'people'],
    ],
    ['nobody of that name', { people: ['mirela'] }, { fields: { sender: '+12025550107' } }, ['lost']],
  ])('tells %s', (_, part, item, reasons) => {
    expect(matchOf(sought(part), found(item)).reasons).toEqual(reasons)
  })

  it('weighs what was asked for by name more than that something is gone', () => {
    const brief = sought({ categories: ['messages'], words: ['stage'], lost: { from: day(5), to: day(14) } })
    const window = { from: day(3), to: day(8) }
    const all = matchOf(brief, found({ window }))
    expect(all).toEqual({ score: 100, reasons: ['lost', 'category', 'words', 'window'] })
    const withoutWord = matchOf(brief, found({ window, text: 'hello' }))
    const kept = matchOf(brief, found({ window, standing: 'kept' }))
    expect(withoutWord.score).toBeLessThan(kept.score)
    expect(kept.score).toBeGreaterThanOrEqual(MATCHES_FROM)
    expect(matchOf(brief, found({ category: 'photos', text: null })).score).toBeLessThan(MATCHES_FROM)
    // A kind that nobody asked for never matches, however much else of it fits.
    expect(
      matchOf(sought({ categories: ['calls'], words: ['stage'], people: ['bram'] }), found({})).score,
    ).toBeLessThan(MATCHES_FROM)
  })

  it('stays between 0 and 100 for every brief and finding', () => {
    for (const categories of [[], ['messages'], ['photos']] as const)
      for (const words of [[], ['stage'], ['none']])
        for (const people of [[], ['bram'], ['none']])
          for (const lost of [null, { from: day(1), to: day(2) }])
            for (const window of [undefined, { from: null, to: null }]) {
              const { score } = matchOf({ categories, words, people, lost }, found({ window }))
              expect(score).toBeGreaterThanOrEqual(0)
              expect(score).toBeLessThanOrEqual(100)
            }
  })
})

describe('two stretches of time', () => {
  it.each([
    [{ from: 1, to: 3 }, { from: 3, to: 5 }, true],
    [{ from: 1, to: 2 }, { from: 3, to: 5 }, false],
    [{ from: null, to: 2 }, { from: 1, to: null }, true],
    [{ from: null, to: null }, { from: 3, to: 5 }, true],
    [{ from: 4, to: null }, { from: null, to: 3 }, false],
  ])('%j and %j overlap: %s', (a, b, together) => {
    expect(overlaps(a, b)).toBe(together)
    expect(overlaps(b, a)).toBe(together)
  })
})

describe('the answer for a brief', () => {
  const facts = (part: Partial<AnswerFacts>): AnswerFacts => ({
    whole: 0,
    partial: 0,
    elsewhere: 0,
    gaps: [],
    lookedThrough: ['phone (2026-11-14)'],
    ...part,
  })
  const gap = { kind: 'locked' as const, words: 'phone: it is locked', sourceId: 1 }
  // docs/truth.md, rule 14.
  it.each<[Partial<AnswerFacts>, string, string]>([
    [{ whole: 3, partial: 2 }, 'found', '3 matching items are gone'],
    [{ whole: 1, gaps: [gap] }, 'found', 'Not everything was looked through'],
    [{ partial: 2 }, 'found-in-part', '2 matching items are gone, and only parts'],
    [{ gaps: [gap] }, 'not-found-so-far', 'Not everything was looked through'],
    [{ elsewhere: 4 }, 'not-found-so-far', '4 matching items are on another device or in the account'],
    [{}, 'not-found', 'Looked through to the end: phone (2026-11-14).'],
  ])('%j', (part, answer, why) => {
    expect(answerOf(facts(part))).toEqual({ answer, why: expect.stringContaining(why) })
  })
})
