import { FormatError } from '../../../io/errors.js'
import { type BtreePage, parseBtreePage, readCell, readPayload } from '../../btree.js'
import type { Catalogue, Tree } from '../../catalogue.js'
import type { Database, Table } from '../../database.js'
import { decodeRecord } from '../../record.js'
import type { SqlValue } from '../../values.js'
import { readVarint, type Varint, varint64 } from '../../varint.js'
import { changedPositions } from './changes.js'
import { asBefore } from './former.js'

const varint: Varint = { value: 0, size: 0 }

/** Looks rows up that the database shows, by their rowid, with one page read each. */
export class LiveRows {
  readonly #trees = new Map<Table, Tree>()
  #last: BtreePage | undefined

  constructor(
    readonly database: Database,
    catalogue: Catalogue,
  ) {
    for (const tree of catalogue.trees) if (tree.table) this.#trees.set(tree.table, tree)
  }

  /** The stored values of the row with this rowid, in the columns of `table`; undefined: there is none. */
  find(table: Table, rowid: number | bigint): (SqlValue | undefined)[] | undefined {
    const stored = this.#stored(table.now ?? table, rowid)
    return stored && table.now ? asBefore(table, stored) : stored
  }

  #stored(table: Table, rowid: number | bigint): SqlValue[] | undefined {
    const tree = this.#trees.get(table)
    const leaf = tree && leafFor(tree, Number(rowid))
    if (leaf === undefined) return undefined
    const page = this.#page(leaf)
    const at = page && cellWith(page, rowid, this.database.pager.header.usableSize)
    if (!page || at === undefined) return undefined
    const { header } = this.database.pager
    try {
      const cell = readCell(page, at, header.usableSize)
      return decodeRecord(readPayload(this.database.pager, page, cell), header.encoding)
    } catch (thrown) {
      // A damaged live row says nothing about older ones; reading the table has reported it.
      if (thrown instanceof FormatError) return undefined
      throw thrown
    }
  }

  /** Whether any table has a live row of this rowid and these values. */
  holds(rowid: number | bigint, values: readonly (SqlValue | undefined)[]): boolean {
    return this.someWith(rowid, (row, table) => {
      return table.storedOrder.length === values.length && changedPositions(values, row).length === 0
    })
  }

  /** Whether a live row of this rowid, of any table, is such a one. */
  someWith(rowid: number | bigint, test: (row: (SqlValue | undefined)[], table: Table) => boolean): boolean {
    for (const table of this.#trees.keys()) {
      const found = table.withoutRowid ? undefined : this.find(table, rowid)
      if (found && test(found, table)) return true
    }
    return false
  }

  #page(number: number): BtreePage | undefined {
    if (this.#last?.number === number) return this.#last
    const bytes = this.database.pager.tryPage(number)
    this.#last = bytes && parseBtreePage(number, bytes, this.database.pager.header.usableSize)
    return this.#last
  }
}

/** The last leaf whose first rowid is not beyond the one sought. */
function leafFor({ leaves, firstRowids }: Tree, rowid: number): number | undefined {
  let low = 0
  let high = firstRowids.length
  while (low < high) {
    const middle = (low + high) >>> 1
    if ((firstRowids[middle] as number) <= rowid) low = middle + 1
    else high = middle
  }
  return leaves[low - 1]
}

function cellWith(page: BtreePage, rowid: number | bigint, usableSize: number): number | undefined {
  let low = 0
  let high = page.cells.length
  while (low < high) {
    const middle = (low + high) >>> 1
    const at = page.cells[middle] as number
    if (!readVarint(page.bytes, at, usableSize, varint)) return undefined
    const found = varint64(page.bytes, at + varint.size, usableSize).value
    if (found === rowid) return at
    if (found < rowid) low = middle + 1
    else high = middle
  }
  return undefined
}
