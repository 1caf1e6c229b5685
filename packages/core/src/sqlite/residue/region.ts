/** Bytes in which cells are looked for: part of one page. */
export interface Region {
  start: number
  end: number
  /** The first four bytes are a freeblock's header: a cell that lost its own begins here. */
  freeblock: boolean
  /** Cells of an index tree (rows without rowid), not of a table. */
  keyed: boolean
  /** It lies between cells that are known, so that others begin at its start and end at its end. */
  hole?: boolean
  /** It cannot be told which of the two; both are tried. */
  either?: boolean
  /** It is known that they are rows, and not entries of an index. */
  rows?: boolean
  /** Entries of an index lie here, which look like headless cells: only whole cells of tables are believed. */
  wholeOnly?: boolean
}
