import { gzipSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import { readNoteDocument } from './document.js'

// The reference's sample, written by hand: "Title" as a title, "Milk" as a ticked line.
const SAMPLE = Buffer.from(
  '0800123808001000 1a32120a5469746c650a4d696c6b 2a06080612020800 2a1c08041218086 72a140a10000102030405060708090a0b0c0d0e0f1001'.replaceAll(
    ' ',
    '',
  ),
  'hex',
)

describe('the document of a note', () => {
  it.each([
    ['as it is', SAMPLE],
    ['gzipped', gzipSync(SAMPLE)],
  ])('%s gives its lines with their styles', (_, bytes) => {
    expect(readNoteDocument(bytes)).toEqual({
      text: 'Title\nMilk',
      paragraphs: [
        { text: 'Title', style: 'title', done: false },
        { text: 'Milk', style: 'checklist', done: true },
      ],
    })
  })

  it('that is damaged ends in a clear error or in text, never in a crash', () => {
    for (const whole of [SAMPLE, gzipSync(SAMPLE)])
      for (let at = 0; at < whole.length; at++)
        for (const value of [0, 0xff, (whole[at] ?? 0) ^ 1]) {
          const changed = Buffer.from(whole)
          changed[at] = value
          try {
            expect(typeof readNoteDocument(changed).text).toBe('string')
          } catch (thrown) {
            expect(thrown).toMatchObject({ name: 'FormatError' })
          }
        }
  })
})
