import { describe, expect, it } from 'vitest'
import { directionalRuns } from './paper-directions.js'

const shown = (line: string) => directionalRuns(line).map(({ text, direction }) => `${direction} ${text}`)

describe('the directions of a line', () => {
  it('keeps a line of one direction in one piece', () => {
    expect(shown('Żofia, 山田花子 🌻')).toEqual(['ltr Żofia, 山田花子 🌻'])
    expect(shown('נועה לוי')).toEqual(['rtl נועה לוי'])
    expect(shown('')).toEqual([])
  })

  it('turns what reads from right to left, and numbers in it back', () => {
    expect(shown('For נועה לוי, as asked')).toEqual(['ltr For ', 'rtl נועה לוי', 'ltr , as asked'])
    // Unicode Standard Annex 9, rules W2 and L2 (from memory): a number keeps its order, the words around it change places.
    expect(shown('ليلى 12 منصور')).toEqual(['rtl  منصور', 'ltr 12', 'rtl ليلى '])
  })

  it('turns brackets with their text (rule L4)', () => {
    expect(shown('(א)')).toEqual(['ltr (', 'rtl א', 'ltr )'])
    expect(shown('א(ב)ג')).toEqual(['rtl א)ב(ג'])
  })

  it('leaves letters of two UTF-16 units whole', () => {
    expect(shown('א\u{1f33b}ב')).toEqual(['rtl א\u{1f33b}ב'])
    expect(shown('a\u{1f33b}b')).toEqual(['ltr a\u{1f33b}b'])
  })
})
