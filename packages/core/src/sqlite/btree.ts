import { FormatError, type Report } from '../io/errors.js'
import type { Pager } from './pager.js'
import { readVarint, type Varint, varint64 } from './varint.js'

/** Page types of b-trees, by the first byte of their header ("Database File Format", section 1.6). */
export const PAGE_TYPE = { interiorIndex: 0x02, interiorTable: 0x05, leafIndex: 0x0a, leafTable: 0x0d } as const

/** Where a page's b-tree header begins: page 1 starts with the file's own header. */
export const headerStart = (page: number) => (page === 1 ? 100 : 0)

/** A b-tree page's header and cell pointers, checked to lie inside the page. */
export interface BtreePage {
  number: number
  bytes: Uint8Array
  type: number
  firstFreeblock: number
  contentStart: number
  /** Offsets of the cells in the page, in key order; pointers outside the page are left out. */
  cells: number[]
  /** Where the cell pointers end and the unallocated gap begins. */
  pointersEnd: number
  rightChild: number
}

/** Reads a page as a b-tree page. Undefined: it is none. */
export function parseBtreePage(number: number, bytes: Uint8Array, usableSize: number): BtreePage | undefined {
  const start = headerStart(number)
  const type = bytes[start] as number
  const interior = type === PAGE_TYPE.interiorIndex || type === PAGE_TYPE.interiorTable
  if (!interior && type !== PAGE_TYPE.leafIndex && type !== PAGE_TYPE.leafTable) return undefined
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const headerEnd = start + (interior ? 12 : 8)
  const count = view.getUint16(start + 3)
  const pointersEnd = headerEnd + 2 * count
  if (pointersEnd > usableSize) return undefined
  const cells: number[] = []
  for (let at = headerEnd; at < pointersEnd; at += 2) {
    const cell = view.getUint16(at)
    if (cell >= pointersEnd && cell < usableSize) cells.push(cell)
  }
  return {
    number,
    bytes,
    type,
    firstFreeblock: view.getUint16(start + 1),
    contentStart: view.getUint16(start + 5) || 65536,
    cells,
    pointersEnd,
    rightChild: interior ? view.getUint32(start + 8) : 0,
  }
}

/** A cell of a leaf, or of an index's interior page: its payload, partly local, and where the rest goes on. */
export interface Cell {
  rowid: number | bigint | null
  payloadSize: number
  /** Offsets within the page. */
  payloadStart: number
  localSize: number
  /** First overflow page, or 0. */
  overflow: number
  end: number
}

/** How many bytes of a payload lie in the cell itself ("Database File Format", section 1.6, X, M and K). */
export function localPayload(payloadSize: number, usableSize: number, table: boolean): number {
  const most = table ? usableSize - 35 : Math.floor(((usableSize - 12) * 64) / 255) - 23
  if (payloadSize <= most) return payloadSize
  const least = Math.floor(((usableSize - 12) * 32) / 255) - 23
  const kept = least + ((payloadSize - least) % (usableSize - 4))
  return kept <= most ? kept : least
}

const varint: Varint = { value: 0, size: 0 }

/** Reads the cell at `at` of a leaf (or index interior) page. @throws FormatError when it leaves the page */
export function readCell(page: BtreePage, at: number, usableSize: number): Cell {
  const table = page.type === PAGE_TYPE.leafTable
  let cursor = page.type === PAGE_TYPE.interiorIndex ? at + 4 : at
  if (!readVarint(page.bytes, cursor, usableSize, varint)) throw new FormatError('truncated', at, 'cell cut short')
  const payloadSize = varint.value
  cursor += varint.size
  let rowid: number | bigint | null = null
  if (table) {
    const key = varint64(page.bytes, cursor, usableSize)
    rowid = key.value
    cursor += key.size
  }
  if (payloadSize < 0) throw new FormatError('bad-value', at, 'cell of negative size')
  const localSize = localPayload(payloadSize, usableSize, table)
  const end = cursor + localSize + (localSize < payloadSize ? 4 : 0)
  if (end > usableSize) throw new FormatError('truncated', at, `cell of ${payloadSize} bytes leaves its page`)
  const overflow = localSize < payloadSize ? uint32(page.bytes, cursor + localSize) : 0
  return { rowid, payloadSize, payloadStart: cursor, localSize, overflow, end }
}

// A view for each of a million cells would cost more than what is read through it.
const uint32 = (bytes: Uint8Array, at: number): number =>
  (((bytes[at] as number) << 24) |
    ((bytes[at + 1] as number) << 16) |
    ((bytes[at + 2] as number) << 8) |
    (bytes[at + 3] as number)) >>>
  0

/** A whole payload, its overflow pages followed. @throws FormatError when the chain is broken or turns in a circle */
export function readPayload(pager: Pager, page: BtreePage, cell: Cell): Uint8Array {
  const local = page.bytes.subarray(cell.payloadStart, cell.payloadStart + cell.localSize)
  return cell.overflow === 0 ? local : followOverflow(pager, local, cell)
}

function followOverflow(pager: Pager, local: Uint8Array, cell: Cell): Uint8Array {
  const room = pager.header.usableSize - 4
  const pages = Math.ceil((cell.payloadSize - cell.localSize) / room)
  if (pages > pager.pageCount)
    throw new FormatError('bad-value', 0, `payload of ${cell.payloadSize} bytes in a smaller file`)
  const payload = new Uint8Array(cell.payloadSize)
  payload.set(local)
  const seen = new Set<number>()
  let next = cell.overflow
  for (let at = cell.localSize; at < cell.payloadSize; ) {
    if (next === 0) throw new FormatError('truncated', at, 'overflow chain ends early')
    if (seen.has(next)) throw new FormatError('bad-value', at, 'overflow chain turns in a circle')
    seen.add(next)
    const bytes = pager.page(next)
    const part = bytes.subarray(4, 4 + Math.min(room, cell.payloadSize - at))
    payload.set(part, at)
    at += part.length
    next = new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0)
  }
  return payload
}

// SQLite's own trees stay below 20 levels; a deeper one is damage.
const MAX_DEPTH = 40

/**
 * All pages of a b-tree, in key order, interior pages before their children's last one. Pages that cannot be
 * read, or that come up a second time, are reported and left out: the walk always ends.
 */
export function* walkTree(pager: Pager, root: number, report: Report): Generator<BtreePage> {
  const seen = new Set<number>()
  const stack: { number: number; depth: number }[] = [{ number: root, depth: 0 }]
  for (let next = stack.pop(); next; next = stack.pop()) {
    const page = openPage(pager, next, seen, report)
    if (!page) continue
    yield page
    const children = childrenOf(page)
    for (let i = children.length - 1; i >= 0; i--) stack.push({ number: children[i] as number, depth: next.depth + 1 })
  }
}

function openPage(pager: Pager, at: { number: number; depth: number }, seen: Set<number>, report: Report) {
  const skip = (why: string) =>
    report({ code: 'page-skipped', message: `page ${at.number} ${why}; its rows are left out` })
  if (seen.has(at.number)) return skip('is reached twice')
  if (at.depth > MAX_DEPTH) return skip('lies too deep in its tree')
  seen.add(at.number)
  try {
    return parseBtreePage(at.number, pager.page(at.number), pager.header.usableSize) ?? skip('is no b-tree page')
  } catch (thrown) {
    if (thrown instanceof FormatError) return skip(`cannot be read (${thrown.code})`)
    throw thrown
  }
}

function childrenOf(page: BtreePage): number[] {
  if (page.type !== PAGE_TYPE.interiorTable && page.type !== PAGE_TYPE.interiorIndex) return []
  const view = new DataView(page.bytes.buffer, page.bytes.byteOffset, page.bytes.byteLength)
  const children = page.cells.filter((at) => at + 4 <= page.bytes.length).map((at) => view.getUint32(at))
  return [...children, page.rightChild]
}
