import { FormatError } from '../io/errors.js'
import { type BtreePage, PAGE_TYPE, readCell, walkTree } from './btree.js'
import type { Database, Table } from './database.js'
import { readFreelist } from './freelist.js'
import type { DatabaseHeader } from './header.js'
import { readVarint, type Varint, varint64 } from './varint.js'

/** What a page is used for. */
export const USE = {
  unknown: 0,
  tableLeaf: 1,
  tableInterior: 2,
  indexLeaf: 3,
  indexInterior: 4,
  overflow: 5,
  freeTrunk: 6,
  freeLeaf: 7,
  pointerMap: 8,
  lockByte: 9,
} as const

/** A b-tree of the database: a table's, or an index's. */
export interface Tree {
  name: string
  root: number
  /** The table that its rows belong to; undefined for an index. */
  table: Table | undefined
  /** Leaf pages of a table in key order. With rowids, the one of each leaf's first cell beside it: for looking rows up. */
  leaves: number[]
  firstRowids: number[]
}

/** All pages of a database by use. */
export interface Catalogue {
  /** By page number, from 1. */
  use: Uint8Array
  /** Index into `trees` by page number; -1: none. */
  owner: Int32Array
  trees: Tree[]
}

const USE_OF_TYPE: Record<number, number> = {
  [PAGE_TYPE.leafTable]: USE.tableLeaf,
  [PAGE_TYPE.interiorTable]: USE.tableInterior,
  [PAGE_TYPE.leafIndex]: USE.indexLeaf,
  [PAGE_TYPE.interiorIndex]: USE.indexInterior,
}

// The page that holds this byte is never used ("Database File Format", section 1.4).
const LOCK_BYTE = 2 ** 30

/** Walks all trees and the freelist of a database and notes what each page is used for. */
export function catalogueOf(database: Database): Catalogue {
  const { pager } = database
  const count = pager.pageCount
  const catalogue: Catalogue = { use: new Uint8Array(count + 1), owner: new Int32Array(count + 1).fill(-1), trees: [] }
  const mark = (page: number, use: number, owner = -1) => {
    if (page < 1 || page > count || catalogue.use[page] !== USE.unknown) return false
    catalogue.use[page] = use
    catalogue.owner[page] = owner
    return true
  }
  markFixedPages(database, mark)
  for (const { name, root, table } of database.trees) {
    const tree: Tree = { name, root, table, leaves: [], firstRowids: [] }
    const owner = catalogue.trees.push(tree) - 1
    for (const page of walkTree(pager, root, database.report)) {
      if (!mark(page.number, USE_OF_TYPE[page.type] as number, owner)) continue
      if (page.type === PAGE_TYPE.leafTable) noteLeaf(tree, page, pager.header.usableSize)
      else if (page.type === PAGE_TYPE.leafIndex && table) tree.leaves.push(page.number)
      if (page.type !== PAGE_TYPE.interiorTable)
        markOverflow(database, page, (number) => mark(number, USE.overflow, owner))
    }
  }
  const free = readFreelist(pager, database.report)
  for (const page of free.trunks) mark(page, USE.freeTrunk)
  for (const page of free.leaves) mark(page, USE.freeLeaf)
  return catalogue
}

type Mark = (page: number, use: number) => boolean

function markFixedPages({ pager }: Database, mark: Mark): void {
  const { autoVacuum, usableSize, pageSize } = pager.header
  if (LOCK_BYTE / pageSize < pager.pageCount) mark(LOCK_BYTE / pageSize + 1, USE.lockByte)
  if (!autoVacuum) return
  for (let page = 2; page <= pager.pageCount; page += mappedPages(usableSize)) mark(page, USE.pointerMap)
}

/** Pages from one pointer map to the next: itself, and those that its entries of five bytes stand for. */
const mappedPages = (usableSize: number) => Math.floor(usableSize / 5) + 1

/** Whether a page is, or was at another time, a pointer map. */
export const isPointerMap = ({ autoVacuum, usableSize }: DatabaseHeader, page: number): boolean =>
  autoVacuum && page >= 2 && (page - 2) % mappedPages(usableSize) === 0

function noteLeaf(tree: Tree, page: BtreePage, usableSize: number): void {
  const [first] = page.cells
  if (first === undefined || !readVarint(page.bytes, first, usableSize, varint)) return
  try {
    tree.firstRowids.push(Number(varint64(page.bytes, first + varint.size, usableSize).value))
    tree.leaves.push(page.number)
  } catch (thrown) {
    if (!(thrown instanceof FormatError)) throw thrown
  }
}

const varint: Varint = { value: 0, size: 0 }

function markOverflow(database: Database, page: BtreePage, mark: (page: number) => boolean): void {
  const { pager } = database
  const { usableSize } = pager.header
  // No cell of fewer bytes than this has overflow pages, whatever its page's type.
  const least = Math.floor(((usableSize - 12) * 32) / 255) - 23
  for (const at of page.cells) {
    const start = page.type === PAGE_TYPE.interiorIndex ? at + 4 : at
    if (!readVarint(page.bytes, start, usableSize, varint) || varint.value <= least) continue
    for (let next = overflowOf(page, at, usableSize); next !== 0 && mark(next); ) {
      const bytes = pager.tryPage(next)
      if (!bytes) break
      next = new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0)
    }
  }
}

function overflowOf(page: BtreePage, at: number, usableSize: number): number {
  try {
    return readCell(page, at, usableSize).overflow
  } catch (thrown) {
    if (thrown instanceof FormatError) return 0
    throw thrown
  }
}
