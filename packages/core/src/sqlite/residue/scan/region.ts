import type { Format } from '../evidence/candidate.js'

/** Which cells bytes are searched for. */
export type CellKind =
  /** Leaf cells of a table: payload size, rowid, record. */
  | 'table'
  /** The same, where entries of an index lie: those look like cells whose start was overwritten, so only whole ones count. */
  | 'whole-table'
  /** Cells of an index b-tree: rows of a table WITHOUT ROWID, or entries of an index. */
  | 'index'
  /** Cells of an index b-tree of which it is known that they are rows. */
  | 'without-rowid'

/** True for cells without a rowid before their record. */
export const isIndexCell = (kind: CellKind): boolean => kind === 'index' || kind === 'without-rowid'

/** Bytes in which cells are looked for: part of one page. */
export interface Region {
  start: number
  /** Exclusive. */
  end: number
  /** A freeblock, whose header lies over the first four bytes of a cell; or space that was never given to a cell since. */
  space: 'freeblock' | 'unallocated'
  /** A cell begins at `start`: that of a freeblock, or one behind a cell that is known. */
  beginsAtCell: boolean
  /** Where it cannot be told which, each is tried, and the one with the most evidence counts. */
  kinds: readonly [CellKind, ...CellKind[]]
}

/** One search of a region for cells of one kind. */
export interface Search extends Omit<Region, 'kinds'> {
  /** The page. */
  bytes: Uint8Array
  kind: CellKind
  format: Format
}

/** A search of a whole page for the cells that its pointers name. */
export const pageSearch = (bytes: Uint8Array, end: number, kind: CellKind, format: Format): Search => ({
  ...{ bytes, start: 0, end, space: 'unallocated', beginsAtCell: false, kind, format },
})
