import { describe, expect, it } from 'vitest'
import { databaseOf, warnings } from '../../../../tests/setup/fixtures.js'
import { MemorySource } from '../io/source.js'
import { localPayload, PAGE_TYPE, parseBtreePage, readCell, readPayload, walkTree } from './btree.js'
import { Pager } from './pager.js'

const SIZE = 512

/** A page with these cells, the last one at its end. */
function page(type: number, cells: Buffer[], change: (bytes: Buffer) => void = () => {}): Buffer {
  const bytes = Buffer.alloc(SIZE)
  const header = type === PAGE_TYPE.interiorIndex || type === PAGE_TYPE.interiorTable ? 12 : 8
  bytes[0] = type
  bytes.writeUInt16BE(cells.length, 3)
  let at = SIZE
  for (const [i, cell] of cells.entries()) {
    at -= cell.length
    cell.copy(bytes, at)
    bytes.writeUInt16BE(at, header + 2 * i)
  }
  bytes.writeUInt16BE(at, 5)
  change(bytes)
  return bytes
}

const cell = (hex: string) => Buffer.from(hex.replaceAll(' ', ''), 'hex')

describe('a page of a b-tree ("Database File Format", section 1.6)', () => {
  it('is read with its cells in key order', () => {
    const bytes = page(PAGE_TYPE.leafTable, [cell('03 01 02 01 07'), cell('03 02 02 01 08')])
    const parsed = parseBtreePage(2, bytes, SIZE)
    expect(parsed).toMatchObject({
      cells: [SIZE - 5, SIZE - 10],
      pointersEnd: 12,
      contentStart: SIZE - 10,
      rightChild: 0,
    })
  })

  it('of number 1 begins behind the header of the file', () => {
    const bytes = Buffer.alloc(SIZE)
    page(PAGE_TYPE.leafTable, []).copy(bytes, 100, 0, SIZE - 100)
    expect(parseBtreePage(1, bytes, SIZE)?.pointersEnd).toBe(108)
    expect(parseBtreePage(2, bytes, SIZE)).toBeUndefined()
  })

  it.each([
    ['a type that is none', (bytes: Buffer) => void bytes.writeUInt8(7, 0)],
    ['more pointers than a page has room for', (bytes: Buffer) => void bytes.writeUInt16BE(60_000, 3)],
  ])('with %s is none', (_, change) => {
    expect(parseBtreePage(2, page(PAGE_TYPE.leafTable, [], change), SIZE)).toBeUndefined()
  })

  it('leaves out pointers that lead into its head, or outside', () => {
    const cells = Array.from({ length: 4 }, () => cell('03 01 02 01 07'))
    const bytes = page(PAGE_TYPE.leafTable, cells, (made) => {
      made.writeUInt16BE(2, 8)
      made.writeUInt16BE(SIZE, 10)
      made.writeUInt16BE(65_535, 12)
    })
    expect(parseBtreePage(2, bytes, SIZE)?.cells).toEqual([SIZE - 20])
  })

  it('says that content which begins at 0 begins at 65,536', () => {
    const bytes = page(PAGE_TYPE.leafTable, [], (made) => void made.writeUInt16BE(0, 5))
    expect(parseBtreePage(2, bytes, SIZE)?.contentStart).toBe(65_536)
  })
})

describe('what of a payload lies in its cell (section 1.6, X, M and K)', () => {
  it.each([
    // Usable size 512, leaf of a table: X = 477, M = 39.
    [477, true, 477],
    [478, true, 39],
    [39 + 508, true, 39],
    [39 + 508 + 100, true, 139],
    [39 + 508 + 438, true, 477],
    [39 + 508 + 439, true, 39],
    // Of an index: X = 102.
    [102, false, 102],
    [103, false, 39],
  ])('%i bytes, of a table: %s, leave %i', (size, table, local) => {
    expect(localPayload(size, 512, table)).toBe(local)
  })

  it('is never more than fits, nor less than it has to be', () => {
    for (const usable of [480, 512, 1024, 4096, 65_536])
      for (let size = 1; size < 4 * usable; size += 37)
        for (const table of [true, false]) {
          const local = localPayload(size, usable, table)
          expect(local).toBeLessThanOrEqual(Math.min(size, usable - 35))
          // The rest fills overflow pages to the last byte, or the cell would have kept more.
          if (local < size) expect(local).toBeGreaterThanOrEqual(Math.floor(((usable - 12) * 32) / 255) - 23)
        }
  })
})

describe('a cell', () => {
  const readAt = (hex: string, type: number = PAGE_TYPE.leafTable) => {
    const parsed = parseBtreePage(2, page(type, [cell(hex)]), SIZE)
    if (!parsed) throw new Error('it is a page')
    return readCell(parsed, parsed.cells[0] as number, SIZE)
  }

  it('has a rowid of up to nine bytes in a table, and none in an index', () => {
    expect(readAt('03 05 02 01 07')).toMatchObject({ rowid: 5, payloadSize: 3, localSize: 3, overflow: 0 })
    expect(readAt('03 ffffffffffffffffff 02 01 07').rowid).toBe(-1)
    expect(readAt('03 02 01 07', PAGE_TYPE.leafIndex)).toMatchObject({ rowid: null, payloadSize: 3 })
    expect(readAt('00000009 03 02 01 07', PAGE_TYPE.interiorIndex)).toMatchObject({ rowid: null, payloadSize: 3 })
  })

  it.each([
    ['leaves its page', '60 01 02 01'],
    ['has a size of 2^63', 'ffffffffffffffffff 01 02'],
    ['has a size that is cut', '80'],
  ])('that %s is refused', (_, hex) => {
    expect(() => readAt(hex)).toThrow(expect.objectContaining({ name: 'FormatError' }))
  })
})

describe('walking a tree', () => {
  const made = () =>
    databaseOf(
      `PRAGMA page_size=512; CREATE TABLE t (a INTEGER PRIMARY KEY, b TEXT); WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 400)
       INSERT INTO t SELECT x, 'line ' || x || substr('${'-'.repeat(40)}', 1, x % 40) FROM c; INSERT INTO t VALUES (1000, '${'long '.repeat(900)}');`,
    )
  const open = (bytes: Buffer) => Pager.open(new MemorySource(bytes))
  const walked = (bytes: Buffer) => {
    const { list, report } = warnings()
    const pages = [...walkTree(open(bytes), 2, report)]
    return { pages, codes: list.map(({ code }) => code) }
  }

  it('meets every page once, leaves in key order', () => {
    const { pages, codes } = walked(made())
    expect(codes).toEqual([])
    expect(new Set(pages.map(({ number }) => number)).size).toBe(pages.length)
    const rowids = pages
      .filter(({ type }) => type === PAGE_TYPE.leafTable)
      .flatMap((one) => one.cells.map((at) => Number(readCell(one, at, SIZE).rowid)))
    expect(rowids).toEqual([...Array.from({ length: 400 }, (_, i) => i + 1), 1000])
  })

  it('ends where a page leads back to one above it, and says so', () => {
    const bytes = made()
    const root = parseBtreePage(2, bytes.subarray(SIZE, 2 * SIZE), SIZE)
    bytes.writeUInt32BE(2, SIZE + (root?.cells[0] as number))
    const { pages, codes } = walked(bytes)
    expect(codes).toEqual(['page-skipped'])
    expect(pages.length).toBeGreaterThan(1)
  })

  it('goes on behind a page that is outside of the file, or is none', () => {
    for (const wrong of [0, 1_000_000, 0xffffffff]) {
      const bytes = made()
      const root = parseBtreePage(2, bytes.subarray(SIZE, 2 * SIZE), SIZE)
      bytes.writeUInt32BE(wrong, SIZE + (root?.cells[1] as number))
      const { pages, codes } = walked(bytes)
      expect(codes).toEqual(['page-skipped'])
      expect(pages.length).toBe(walked(made()).pages.length - 1)
    }
  })

  it('follows a long payload, and refuses one whose chain is cut or turns in a circle', () => {
    const long = (bytes: Buffer) => {
      const pager = open(bytes)
      for (const one of walkTree(pager, 2, () => {}))
        for (const at of one.type === PAGE_TYPE.leafTable ? one.cells : []) {
          const found = readCell(one, at, SIZE)
          if (found.overflow > 0) return { first: found.overflow, read: () => readPayload(pager, one, found) }
        }
      throw new Error('one row is long')
    }
    const bytes = made()
    const { first, read } = long(bytes)
    expect(Buffer.from(read()).toString('latin1')).toContain('long '.repeat(900))
    for (const next of [0, 9_999_999, first]) {
      const cut = Buffer.from(bytes)
      cut.writeUInt32BE(next, (first - 1) * SIZE)
      expect(() => long(cut).read()).toThrow(expect.objectContaining({ name: 'FormatError' }))
    }
  })
})
