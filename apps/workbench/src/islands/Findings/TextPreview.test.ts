import { describe, expect, it } from 'vitest'
import { isPlainText, textOf } from './TextPreview.js'

describe('the text of a file', () => {
  it.each([
    ['UTF-8', Buffer.from('שיר 🎨 Ä'), 'שיר 🎨 Ä'],
    ['UTF-8 with a mark', Buffer.from('\ufeffpass'), 'pass'],
    ['UTF-8 that ends within a letter', Buffer.from('fox 🎨').subarray(0, 7), 'fox '],
    ['UTF-16, low byte first', Buffer.from('\ufeff人形', 'utf16le'), '人形'],
    ['UTF-16, high byte first', Buffer.from('\ufeff人形', 'utf16le').swap16(), '人形'],
    ['a byte a letter', Buffer.from([0x46, 0xfc, 0x6e, 0x66]), 'Fünf'],
    ['nothing', Buffer.alloc(0), ''],
  ])('%s', (_, bytes, text) => {
    expect(textOf(bytes)).toBe(text)
  })

  it('is not shown of pages and pictures', () => {
    for (const mime of ['text/plain', 'text/csv', 'application/json']) expect(isPlainText(mime)).toBe(true)
    for (const mime of ['text/html', 'image/svg+xml', 'application/pdf', '']) expect(isPlainText(mime)).toBe(false)
  })
})
