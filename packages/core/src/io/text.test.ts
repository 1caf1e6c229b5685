import { describe, expect, it } from 'vitest'
import { wellFormed } from './text.js'

const HIGH = '\ud83d'
const LOW = '\ude00'

describe('text that UTF-16 can hold and UTF-8 cannot', () => {
  it.each([
    ['a first half at the end', `strings${HIGH}`, 'strings\ufffd'],
    ['a second half at the beginning', `${LOW}strings`, '\ufffdstrings'],
    ['halves in the wrong order', `${LOW}${HIGH}`, '\ufffd\ufffd'],
    ['a half between whole ones', `😀${HIGH}😀`, '😀\ufffd😀'],
  ])('%s becomes the sign for what cannot be shown', (_, text, shown) => {
    expect(wellFormed(text)).toBe(shown)
    expect(Buffer.from(wellFormed(text), 'utf8').toString('utf8')).toBe(shown)
  })

  it('is mended however deep it lies, in names too', () => {
    const value = { a: [{ b: `x${HIGH}` }], [`k${LOW}`]: 1, date: new Date(0), bytes: new Uint8Array([1]) }
    expect(wellFormed(value)).toEqual({
      a: [{ b: 'x\ufffd' }],
      'k\ufffd': 1,
      date: new Date(0),
      bytes: new Uint8Array([1]),
    })
  })

  it.each([
    ['whole text', '😀 strings'],
    ['values without text', { a: null, b: [1, true, 2.5], c: undefined, d: new Date(0) }],
    ['nested whole text', { a: ['é', { b: '𐍈' }] }],
    ['a map without a prototype', Object.assign(Object.create(null), { a: 'x' })],
  ])('gives %s back as it is', (_, value) => {
    expect(wellFormed(value)).toBe(value)
  })

  // RFC 8259, 8.2: what others make of such escapes cannot be foreseen.
  it('leaves no lone escape in JSON', () => {
    expect(JSON.stringify(wellFormed({ text: `a${HIGH}b` }))).toBe('{"text":"a\ufffdb"}')
  })
})
