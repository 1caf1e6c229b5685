import { gunzipSync, gzipSync } from 'node:zlib'
import { NOTE_TABLE, noteTable } from '@lumbrin/standins/demo/stores/note-table'
import { describe, expect, it } from 'vitest'
import { readNoteTable } from './table.js'

describe('the table of a note', () => {
  it('gives its cells, row by row, those of a moved row too', () => {
    expect(readNoteTable(noteTable(NOTE_TABLE))).toEqual(NOTE_TABLE)
    expect(readNoteTable(noteTable([['one cell']]))).toEqual([['one cell']])
  })

  it('that is none is told as such', () => {
    for (const bytes of [new Uint8Array(), Buffer.from('no table'), gzipSync('no table')])
      expect(() => readNoteTable(bytes)).toThrow(expect.objectContaining({ name: 'FormatError' }))
  })

  it('that is damaged ends in a clear error or in cells, never in a crash', () => {
    const plain = gunzipSync(noteTable(NOTE_TABLE))
    for (let at = 0; at < plain.length; at++) {
      const changed = Buffer.from(plain)
      changed[at] = (changed[at] ?? 0) ^ (1 << (at % 8))
      try {
        expect(readNoteTable(changed).length).toBeLessThanOrEqual(2000)
      } catch (thrown) {
        expect(thrown).toMatchObject({ name: 'FormatError' })
      }
    }
  })
})
