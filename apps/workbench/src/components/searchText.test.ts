import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { parseSearch, wordsToMark } from './searchText'

const NOTHING = { words: [], phrases: [], from: [], in: [], before: null, after: null, standings: [], has: [] }

describe('a search', () => {
  it.each([
    ['', {}],
    ['fox lantern', { words: ['fox', 'lantern'] }],
    ['"folding stage" fox', { phrases: ['folding stage'], words: ['fox'] }],
    ['from:bram in:"Tour crew"', { from: ['bram'], in: ['Tour crew'] }],
    ['after:2026-05-01 before:2026-06-01', { after: '2026-05-01', before: '2026-06-01' }],
    ['standing:Rebuilt has:attachment', { standings: ['rebuilt'], has: ['attachment'] }],
    ['after:soon standing:gone has:wings', { words: ['after:soon', 'standing:gone', 'has:wings'] }],
    ['https://stage.example/', { words: ['https://stage.example/'] }],
    ['"never closed', { phrases: ['never closed'] }],
    ['月の提灯', { words: ['月の提灯'] }],
  ])('%s', (text, expected) => {
    expect(parseSearch(text)).toEqual({ ...NOTHING, ...expected })
  })

  it('never fails, whatever is typed', () => {
    fc.assert(fc.property(fc.string(), (text) => Array.isArray(wordsToMark(text))))
  })
})
