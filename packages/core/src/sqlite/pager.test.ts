import { describe, expect, it } from 'vitest'
import { FormatError } from '../io/errors.js'
import { MemorySource } from '../io/source.js'
import { Pager } from './pager.js'

const PAGE = 512
const PAGES = 2000

/** A file of numbered pages, of which the last is cut, that notes what is read of it. */
function numbered() {
  const bytes = new Uint8Array(PAGE * PAGES - 100)
  const view = new DataView(bytes.buffer)
  for (let page = 1; page <= PAGES; page++) view.setUint32((page - 1) * PAGE + 200, page)
  // The header by "Database File Format", section 1.3.
  bytes.set(Buffer.from('SQLite format 3\0'))
  bytes.set([PAGE >> 8, 0, 1, 1, 0, 64, 32, 32], 16)
  view.setUint32(28, PAGES)
  view.setUint32(56, 1)
  const reads: number[] = []
  const source = new MemorySource(bytes)
  const noted = {
    size: source.size,
    read: (start: number, end: number) => source.read(start, end),
    readSync: (start: number, end: number) => {
      reads.push(end - start)
      return source.readSync(start, end)
    },
    close: () => source.close(),
  }
  return { source: noted, reads }
}

const numberOf = (page: Uint8Array) => new DataView(page.buffer, page.byteOffset, page.byteLength).getUint32(200)

describe('pages', () => {
  it('are those of their numbers, and each byte is read once when they are asked for in their order', () => {
    const { source, reads } = numbered()
    const pager = Pager.open(source)
    reads.length = 0
    for (let page = 1; page <= pager.pageCount; page++) expect(numberOf(pager.page(page))).toBe(page)
    expect(pager.pageCount).toBe(PAGES - 1)
    expect(reads.reduce((sum, one) => sum + one, 0)).toBeLessThanOrEqual(source.size)
    expect(reads.length).toBeLessThan(PAGES / 20)
  })

  it('cost little where they are asked for in any order', () => {
    const { source, reads } = numbered()
    const pager = Pager.open(source)
    for (let i = 0; i < 5000; i++) {
      const page = 1 + ((i * 7919) % (PAGES - 1))
      expect(numberOf(pager.page(page))).toBe(page)
    }
    // All of it fits into the cache.
    expect(reads.reduce((sum, one) => sum + one, 0)).toBeLessThan(source.size * 1.1)
    expect(Math.max(...reads)).toBeLessThanOrEqual(32 * 1024)
  })

  it('that do not exist are refused, or are none', () => {
    const pager = Pager.open(numbered().source)
    for (const page of [0, -1, 1.5, PAGES, 2 ** 40, Number.NaN]) {
      expect(() => pager.page(page)).toThrow(FormatError)
      expect(pager.tryPage(page)).toBe(undefined)
    }
  })

  it('of a log stand for those of the file, and say where they lie', () => {
    const { source } = numbered()
    const log = new MemorySource(new Uint8Array(3 * PAGE).fill(7))
    const images = new Map([[5, { source: log, offset: PAGE }]])
    const pager = Pager.open(source, { images, pageCount: PAGES })
    expect(pager.page(5)).toEqual(new Uint8Array(PAGE).fill(7))
    expect(pager.offsetOf(5)).toBe(PAGE)
    expect(numberOf(pager.page(6))).toBe(6)
    expect(pager.offsetOf(6)).toBe(5 * PAGE)
    // The log says that there are so many, and the file ends before.
    expect(() => pager.page(PAGES)).toThrow('beyond the end')
  })
})
