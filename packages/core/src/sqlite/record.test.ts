import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import sqlite from 'node-sqlite3-wasm'
import { describe, expect, it } from 'vitest'
import { makeByShell, scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import { MemorySource } from '../io/source.js'
import { openDatabase } from './open.js'
import {
  decodeRecord,
  decodeText,
  decodeValue,
  isCleanText,
  isTooLong,
  MAX_COLUMNS,
  RecordView,
  serialSize,
} from './record.js'

const hex = (text: string) => new Uint8Array(Buffer.from(text.replaceAll(' ', ''), 'hex'))
const value = (serial: number, bytes: string) => decodeValue(hex(bytes), 0, serial, serialSize(serial), 'utf8')

describe('serial types ("Database File Format", section 2.1)', () => {
  it.each([
    [0, 0],
    [1, 1],
    [2, 2],
    [3, 3],
    [4, 4],
    [5, 6],
    [6, 8],
    [7, 8],
    [8, 0],
    [9, 0],
    [10, -1],
    [11, -1],
    [12, 0],
    [13, 0],
    [14, 1],
    [15, 1],
    [1000, 494],
    [1001, 494],
  ])('type %i takes %i bytes', (serial, size) => {
    expect(serialSize(serial)).toBe(size)
  })

  it.each<[number, string, unknown]>([
    [0, '', null],
    [1, 'ff', -1],
    [1, '7f', 127],
    [2, '8000', -32_768],
    [3, 'ff0000', -65_536],
    [3, '7fffff', 8_388_607],
    [4, '80000000', -2_147_483_648],
    [5, '800000000000', -140_737_488_355_328],
    [5, '7fffffffffff', 140_737_488_355_327],
    [6, '001fffffffffffff', Number.MAX_SAFE_INTEGER],
    [6, '0020000000000001', 9_007_199_254_740_993n],
    [6, '8000000000000000', -9_223_372_036_854_775_808n],
    [7, '3ff8000000000000', 1.5],
    [7, '7ff0000000000000', Number.POSITIVE_INFINITY],
    [8, '', 0],
    [9, '', 1],
    [14, 'ab', hex('ab')],
    [15, '61', 'a'],
  ])('type %i of %s', (serial, bytes, expected) => {
    expect(value(serial, bytes)).toEqual(expected)
  })
})

describe('a record', () => {
  it('gives what SQLite itself stored, whatever it was', () => {
    const file = join(scratchFolder(), 'made.db')
    const rows = [
      [0, 1, -1, 127, -128, 128],
      [32_767, -32_768, 8_388_607, -8_388_609, 2_147_483_648, null],
      [0.5, -1e300, 1e-9, 3, 'é漢😀', ''],
      ['x'.repeat(200), hex('00ff'), new Uint8Array(), null, null, 'y'.repeat(70_000)],
    ]
    const database = new sqlite.Database(file)
    database.exec('CREATE TABLE t (a, b, c, d, e, f)')
    for (const row of rows) database.run('INSERT INTO t VALUES (?, ?, ?, ?, ?, ?)', row as never)
    database.close()
    const dump = tool('sqlite3', file, '.dump')
    for (const encoding of ['UTF-16le', 'UTF-16be'] as const) makeByShell(`${file}-${encoding}`, encoding, dump)
    for (const [ending, encoding] of [
      ['', 'utf8'],
      ['-UTF-16le', 'utf16le'],
      ['-UTF-16be', 'utf16be'],
    ]) {
      const { database: ours } = openDatabase({ main: new MemorySource(readFileSync(file + ending)) }, () => {})
      expect(ours.pager.header.encoding).toBe(encoding)
      expect([...ours.rows('t')].map(({ values }) => Object.values(values))).toEqual(rows)
    }
  })

  it('is read from its header on', () => {
    // Five bytes of header: NULL, 1, a text of two letters, an integer of one byte.
    expect(decodeRecord(hex('05 00 09 11 01 6869 2a'), 'utf8')).toEqual([null, 1, 'hi', 42])
  })

  it.each([
    ['nothing', ''],
    ['a header that is longer than the record', '09 01'],
    ['a header that ends within its own size', '00'],
    ['a value that is not there', '02 06 01'],
    ['a type that is reserved', '02 0a'],
    ['a type that is cut', '02 81'],
    ['a type of an absurd size', '0a ffffffffffffffff7f'],
  ])('that is %s is refused, and tried without an error', (_, bytes) => {
    const view = new RecordView('utf8')
    expect(() => view.open(hex(bytes))).toThrow(expect.objectContaining({ name: 'FormatError' }))
    expect(view.tryOpen(hex(bytes))).toBe(false)
  })

  it('of more columns than a table can have is refused', () => {
    const columns = MAX_COLUMNS + 1
    const header = columns + 3
    const bytes = Buffer.alloc(header)
    bytes.set([0x80 | (header >> 14), 0x80 | ((header >> 7) & 0x7f), header & 0x7f])
    expect(new RecordView('utf8').tryOpen(bytes)).toBe(false)
  })

  it('turns to the next without anything of the one before', () => {
    const view = new RecordView('utf8')
    view.open(hex('05 00 09 11 01 6869 2a'))
    view.open(hex('02 01 07'))
    expect([view.count, view.values()]).toEqual([1, [7]])
    expect(view.blob(3)).toBeUndefined()
    expect(view.textBytes(2, new Uint8Array())).toBeUndefined()
    expect(view.withText(2, () => true)).toBeUndefined()
  })
})

describe('texts of a record', () => {
  const record = (bytes: string) => hex(`02 ${(13 + bytes.replaceAll(' ', '').length).toString(16)} ${bytes}`)

  it.each([
    ['utf8', '68c3a9'],
    ['utf16le', '6800 e900'],
    ['utf16be', '0068 00e9'],
  ] as const)('are given as UTF-8 from %s', (encoding, bytes) => {
    const view = new RecordView(encoding)
    view.open(record(bytes))
    expect(view.value(0)).toBe('hé')
    expect(view.withText(0, (text, start, end) => Buffer.from(text.subarray(start, end)).toString())).toBe('hé')
    expect(view.withText(1, () => true)).toBeUndefined()
  })

  it('that are the same as before are not copied again', () => {
    const view = new RecordView('utf8')
    view.open(record('6869'))
    const first = view.textBytes(0, new Uint8Array())
    view.open(record('6869'))
    expect(view.textBytes(0, first as Uint8Array)).toBe(first)
    view.open(record('686a'))
    expect(view.textBytes(0, first as Uint8Array)).not.toBe(first)
  })

  it('with flaws are shown, and told from clean ones', () => {
    expect(decodeText(hex('68ff'), 0, 2, 'utf8')).toBe('h\ufffd')
    expect(isCleanText(hex('68c3a9'), 0, 3, 'utf8')).toBe(true)
    expect(isCleanText(hex('68c3'), 0, 2, 'utf8')).toBe(false)
    expect(isCleanText(hex('00d8'), 0, 2, 'utf16le')).toBe(false)
    expect(isCleanText(hex('3dd8 00de'), 0, 4, 'utf16le')).toBe(true)
    expect(isCleanText(hex('680069'), 0, 3, 'utf16le')).toBe(false)
  })
})

const SIZES = [0, 1, 2, 3, 4, 6, 8]

/** A whole number as a serial type stores it; undefined: it does not fit. */
function stored(value: bigint, type: number): Uint8Array | undefined {
  const size = SIZES[type] as number
  if (BigInt.asIntN(8 * size, value) !== value) return undefined
  const bytes = Buffer.alloc(8)
  bytes.writeBigInt64BE(value)
  return bytes.subarray(8 - size)
}

describe('a whole number ("Database File Format", section 2.1)', () => {
  it('is too long in every type but the shortest that it fits', () => {
    fc.assert(
      fc.property(fc.oneof(fc.bigInt(-300n, 300n), fc.bigInt(-(2n ** 63n), 2n ** 63n - 1n)), (value) => {
        const fitting = [1, 2, 3, 4, 5, 6].filter((type) => stored(value, type))
        const bare = value === 0n || value === 1n
        for (const type of fitting)
          expect(isTooLong(stored(value, type) as Uint8Array, 0, type, true)).toBe(bare || type !== fitting[0])
        // Before schema format 4 there were no types for 0 and 1.
        expect(isTooLong(stored(value, fitting[0] as number) as Uint8Array, 0, fitting[0] as number, false)).toBe(false)
      }),
    )
  })
})
