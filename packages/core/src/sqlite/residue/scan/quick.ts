import { isIndexCell, type Search } from './region.js'

/**
 * The inner loop of the search for cells: a test that costs nanoseconds and lets nearly nothing through that is no cell.
 * It must agree with `wholeCell` and `headerIntact`, which look closer at what passes.
 */

const SMALL = Uint8Array.of(0, 1, 2, 3, 4, 6, 8, 8, 0, 0)

/**
 * Every offset from `start` to `end` where a cell could begin: whole, or (unless only whole ones count) with a freeblock's header
 * over its first four bytes. Writes them into `out`, in ascending order, and gives their count.
 */
export function likelyStarts(
  { bytes, start, end, kind, format: { usableSize, mostHeader } }: Search,
  out: Uint16Array,
): number {
  let count = 0
  const isIndex = isIndexCell(kind)
  const lastFreed = kind === 'whole-table' ? -1 : end - 9
  // Below, four bytes are read ahead of every offset; what a region's last bytes begin is no cell.
  const last = Math.min(end, bytes.length - 3)
  for (let at = start; at < last; at++) {
    const size = ((bytes[at + 2] as number) << 8) | (bytes[at + 3] as number)
    const next = ((bytes[at] as number) << 8) | (bytes[at + 1] as number)
    // The most frequent bytes of all: a payload size of nothing.
    if (next === 0 && size === 0) continue
    const freed =
      at <= lastFreed && size >= 4 && at + size <= usableSize && (next === 0 || (next > at && next < usableSize))
    if (freed || mayBeCell(bytes, at, end, isIndex, mostHeader)) out[count++] = at
  }
  return count
}

/** The first four bytes read as a freeblock's header: a block further on or none, and a size inside the page. */
export function mayBeFreed(bytes: Uint8Array, at: number, usableSize: number): boolean {
  const next = ((bytes[at] as number) << 8) | (bytes[at + 1] as number)
  const size = ((bytes[at + 2] as number) << 8) | (bytes[at + 3] as number)
  return (next === 0 || (next > at && next < usableSize)) && size >= 4 && at + size <= usableSize
}

/** Whether a record could begin at `at` whose header and values take exactly `size` bytes. */
export function mayBeRecord(bytes: Uint8Array, at: number, end: number, size: number, mostHeader: number): boolean {
  let header = bytes[at] as number
  let cursor = at + 1
  if (header >= 0x80) {
    header = ((header & 0x7f) << 7) | ((bytes[cursor++] as number) & 0x7f)
  }
  if (header < 2 || header > mostHeader || at + header > end || header > size) return false
  const typesEnd = at + header
  let body = 0
  while (cursor < typesEnd) {
    let type = bytes[cursor++] as number
    if (type >= 0x80) {
      type &= 0x7f
      let more = 0x80
      while (more >= 0x80) {
        if (cursor >= typesEnd) return false
        more = bytes[cursor++] as number
        type = type * 128 + (more & 0x7f)
      }
    }
    if (type < 12) {
      if (type >= 10) return false
      body += SMALL[type] as number
    } else body += (type - 12) >>> 1
    if (header + body > size) return false
  }
  return header + body === size
}

/** Whether a whole cell could begin at `at`: payload size, rowid (of a table), and a record of just that size. */
export function mayBeCell(bytes: Uint8Array, at: number, end: number, isIndex: boolean, mostHeader: number): boolean {
  let size = bytes[at] as number
  let cursor = at + 1
  if (size >= 0x80) {
    size &= 0x7f
    let more = 0x80
    for (let i = 0; more >= 0x80 && i < 4; i++) {
      more = bytes[cursor++] as number
      size = size * 128 + (more & 0x7f)
    }
  }
  if (size < 2) return false
  if (!isIndex) {
    // The ninth byte of a rowid is its last one, whatever it is.
    for (let more = 8; more > 0 && (bytes[cursor] as number) >= 0x80; more--) cursor++
    cursor++
  }
  return cursor < end && mayBeRecord(bytes, cursor, end, size, mostHeader)
}
