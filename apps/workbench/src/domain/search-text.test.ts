import { LOST_STANDINGS } from '@lumbrin/core/findings/standing'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { parseSearch, type Search, type Term, wordsToMark } from './search-text'

const NOTHING: Search = { terms: [], before: null, after: null, problems: [] }
const word = (value: string, not = false): Term => ({ kind: 'word', value, not })
const from = (value: string, not = false): Term => ({ kind: 'from', value, not })

describe('a search', () => {
  it.each<[string, Partial<Search>]>([
    ['', {}],
    ['fox lantern', { terms: [word('fox'), word('lantern')] }],
    ['"folding stage" fox', { terms: [{ kind: 'phrase', value: 'folding stage', not: false }, word('fox')] }],
    [
      'fox -moon -"paper wagon"',
      { terms: [word('fox'), word('moon', true), { kind: 'phrase', value: 'paper wagon', not: true }] },
    ],
    ['from:bram', { terms: [from('bram')] }],
    ['from:Bram FROM:"bram okafor"', { terms: [from('Bram'), from('bram okafor')] }],
    ['-from:bram in:"Tour crew"', { terms: [from('bram', true), { kind: 'in', value: 'Tour crew', not: false }] }],
    ['after:2026-05-01 before:2026-06-01', { after: '2026-05-01', before: '2026-06-01' }],
    ['after:2025 before:2026-02', { after: '2025-01-01', before: '2026-02-01' }],
    ['before:"2025"', { before: '2025-01-01' }],
    [
      'standing:Rebuilt has:ATTACHMENT',
      {
        terms: [
          { kind: 'standing', value: ['rebuilt'], not: false },
          { kind: 'has', value: 'attachment', not: false },
        ],
      },
    ],
    ['standing:lost', { terms: [{ kind: 'standing', value: LOST_STANDINGS, not: false }] }],
    ['-has:place', { terms: [{ kind: 'has', value: 'place', not: true }] }],
    ['https://stage.example/', { terms: [word('https://stage.example/')] }],
    ['re: seats', { terms: [word('re:'), word('seats')] }],
    ['well-known - fox', { terms: [word('well-known'), word('fox')] }],
    ['"never closed', { terms: [{ kind: 'phrase', value: 'never closed', not: false }] }],
    ['月の提灯', { terms: [word('月の提灯')] }],
  ])('%s', (text, expected) => {
    expect(parseSearch(text)).toEqual({ ...NOTHING, ...expected })
  })

  it.each([
    ['after:soon', 'a date is a year, a month or a day'],
    ['before:2026-13', 'a date is'],
    ['before:2026-02-30', 'a date is'],
    ['standing:gone', 'kept, binned, earlier, rebuilt, partial, elsewhere, or lost'],
    ['has:wings', 'attachment, content, place, or reply'],
    ['from:', 'is missing'],
    ['-after:2026', 'say before: instead'],
  ])('says what is wrong with %s, and goes on without it', (text, why) => {
    const { problems, terms } = parseSearch(`${text} fox`)
    expect(problems).toEqual([{ text, why: expect.stringContaining(why) }])
    expect(terms).toEqual([word('fox')])
  })

  it('never fails, and loses nothing that is typed without operators', () => {
    fc.assert(fc.property(fc.string(), (text) => Array.isArray(wordsToMark(text))))
    const plain = fc.stringMatching(/^[a-z]{1,8}$/)
    fc.assert(
      fc.property(fc.array(plain), (words) => {
        expect(wordsToMark(words.join(' '))).toEqual(words)
      }),
    )
  })

  it('marks what is sought, and not what is left out', () => {
    expect(wordsToMark('fox -moon "paper wagon" from:bram')).toEqual(['fox', 'paper wagon'])
  })
})
