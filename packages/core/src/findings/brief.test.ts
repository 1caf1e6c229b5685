import { describe, expect, it } from 'vitest'
import { answerOf } from './answer.js'
import { type Found, MATCHES_FROM, matchOf, type Sought } from './match.js'
import { lossWindow, overlaps } from './window.js'

const day = (n: number) => Date.UTC(2026, 9, n)

const sought = (part: Partial<Sought>): Sought => ({ categories: [], words: [], people: [], lost: null, ...part })
const found = (part: Partial<Found>): Found => ({
  category: 'messages',
  standing: 'rebuilt',
  title: 'Bram Okafor',
  text: 'The folding stage is 3.40 m wide',
  fields: {},
  window: undefined,
  ...part,
})

describe('the match with a brief', () => {
  it('counts what the brief names, and nothing else', () => {
    expect(matchOf(sought({}), found({}))).toEqual({ score: 100, reasons: ['lost'] })
    expect(matchOf(sought({}), found({ standing: 'kept' }))).toEqual({ score: 0, reasons: [] })
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

describe('a loss window', () => {
  const seen = (condition: 'live' | 'binned' | 'rebuilt', at: number | null) => ({ condition, sourceTakenAt: at })

  it.each([
    [
      'from the last source that has it to the next one that has not',
      [seen('live', 1), seen('live', 3)],
      [1, 2, 3, 5, 7],
      { from: 3, to: 5 },
    ],
    ['of what only a leftover tells of: open towards the past', [seen('rebuilt', 4)], [2, 4], { from: null, to: 2 }],
    [
      'of what is in the bin: until the source with the bin',
      [seen('live', 1), seen('binned', 4)],
      [1, 4],
      { from: 1, to: 4 },
    ],
    ['of what is in the newest source: none', [seen('live', 5)], [1, 5], undefined],
    ['without a newer source: none', [seen('live', 5)], [5], undefined],
    ['of a source without a date: by the others', [seen('live', null)], [2, 3], { from: null, to: 2 }],
  ])('goes %s', (_, sightings, sources, window) => {
    expect(lossWindow(sightings, sources)).toEqual(window)
    expect(lossWindow([...sightings].reverse(), [...sources].reverse())).toEqual(window)
  })

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
  it.each([
    [{ whole: 3, partial: 2, unread: false }, 'found', '3 matching items'],
    [{ whole: 0, partial: 2, unread: false }, 'found in part', 'Of 2 matching items'],
    [{ whole: 0, partial: 0, unread: false }, 'not found', 'No matching item'],
  ])('%j', (counts, answer, why) => {
    expect(answerOf(counts)).toEqual({ answer, why: expect.stringContaining(why) })
    expect(answerOf(counts).why).not.toContain('Not every source')
    expect(answerOf({ ...counts, unread: true }).why).toContain('Not every source was read')
  })
})
