import { FormatError, messageOf, type Report } from '../io/errors.js'
import type { ByteSource } from '../io/source.js'
import { type BtreePage, type Cell, PAGE_TYPE, parseBtreePage, readCell, readPayload, walkTree } from './btree.js'
import { parseCreateTable, type TableShape } from './ddl.js'
import { type Overlay, Pager } from './pager.js'
import { decodeRecord } from './record.js'
import type { Row, SqlValue } from './values.js'

/** One table of a database that holds rows of its own. */
export interface Table extends TableShape {
  name: string
  root: number
  /** Indices of `columns` in the order in which a record stores them. */
  storedOrder: number[]
  /** For each of `columns` its position in a record; -1: not stored. */
  storedPosition: number[]
  /** Of columns that the table had before: the table as it is now. */
  now?: Table
}

/** A row as a walk meets it. */
export interface StoredRow {
  payload: Uint8Array
  /** By which it can be read again: its page and the offset of its cell, as one number. */
  location: number
}

// Pages are of 65,536 bytes at most.
const MOST_OFFSET = 65_536

/** A database opened for reading: its tables, and their live rows. */
export class Database {
  #lastPage: BtreePage | undefined

  private constructor(
    readonly pager: Pager,
    /** Tables by their exact name. */
    readonly tables: ReadonlyMap<string, Table>,
    /** Every b-tree of the database, its own schema first; indexes have no table. */
    readonly trees: readonly { name: string; root: number; table: Table | undefined }[],
    readonly report: Report,
  ) {}

  /**
   * Opens a database file. Tables whose definition cannot be read are reported and left out.
   * @throws FormatError when the file is no database at all
   */
  static open(source: ByteSource, report: Report, overlay: Overlay | null = null): Database {
    const pager = Pager.open(source, overlay)
    const tables = new Map<string, Table>()
    const trees: { name: string; root: number; table: Table | undefined }[] = [
      { name: 'sqlite_master', root: 1, table: SCHEMA_TABLE },
    ]
    for (const { values } of rowsOf(pager, SCHEMA_TABLE, report)) {
      const table = tableOf(values)
      if (table) tables.set(table.name, table)
      if (typeof values.rootpage === 'number' && values.rootpage > 1)
        trees.push({ name: String(values.name), root: values.rootpage, table })
    }
    return new Database(pager, tables, trees, report)
  }

  /** Live rows of a table, in key order; none where there is no such table. */
  rows(name: string): Iterable<Row> {
    const table = this.tables.get(name)
    return table ? rowsOf(this.pager, table, this.report) : []
  }

  /**
   * Live rows as stored, overflow pages included: for walks over whole tables that need a column or two. The object is
   * the same for every row.
   */
  *payloads(table: Table): Generator<StoredRow> {
    const { header } = this.pager
    const row: StoredRow = { payload: new Uint8Array(), location: 0 }
    for (const page of walkTree(this.pager, table.root, this.report)) {
      if (!holdsRows(table, page)) continue
      for (const at of page.cells) {
        let payload: Uint8Array | undefined
        try {
          payload = readPayload(this.pager, page, readCell(page, at, header.usableSize))
        } catch (thrown) {
          reportCell(thrown, table, page, this.report)
        }
        if (!payload) continue
        row.payload = payload
        row.location = page.number * MOST_OFFSET + at
        yield row
      }
    }
  }

  /** The row that a walk met at this location. @throws FormatError when there is none any more */
  payloadAt(location: number): Uint8Array {
    const number = Math.floor(location / MOST_OFFSET)
    if (this.#lastPage?.number !== number) {
      const page = this.btreePage(number, this.pager.page(number))
      if (!page) throw new FormatError('bad-value', 0, `page ${number} holds no rows any more`)
      this.#lastPage = page
    }
    return readPayload(
      this.pager,
      this.#lastPage,
      readCell(this.#lastPage, location % MOST_OFFSET, this.pager.header.usableSize),
    )
  }

  /** A page as a b-tree page; undefined: it is none. */
  btreePage(number: number, bytes: Uint8Array): BtreePage | undefined {
    return parseBtreePage(number, bytes, this.pager.header.usableSize)
  }

  /** The columns that a table has, so that a reader can ask for what is there. */
  hasColumn(table: string, column: string): boolean {
    return this.tables.get(table)?.columns.some((known) => known.name === column) ?? false
  }
}

/** The table that lists all others ("Database File Format", section 2.6). */
export const SCHEMA_TABLE: Table = {
  ...(parseCreateTable(
    'CREATE TABLE sqlite_master (type TEXT, name TEXT, tbl_name TEXT, rootpage INT, sql TEXT)',
  ) as TableShape),
  name: 'sqlite_master',
  root: 1,
  storedOrder: [0, 1, 2, 3, 4],
  storedPosition: [0, 1, 2, 3, 4],
}

/** The table that a row of the schema defines; undefined where it defines something else. */
export function tableOf(values: Record<string, SqlValue>): Table | undefined {
  const { type, name, rootpage, sql } = values
  if (type !== 'table' || typeof name !== 'string' || typeof sql !== 'string') return undefined
  if (typeof rootpage !== 'number' || rootpage < 1) return undefined
  const shape = parseCreateTable(sql)
  if (!shape) return undefined
  const order = storedOrder(shape)
  const position = shape.columns.map((_, index) => order.indexOf(index))
  return { ...shape, name, root: rootpage, storedOrder: order, storedPosition: position }
}

/** Rows without rowid store the key's columns first; computed columns are not stored at all. */
export function storedOrder(shape: TableShape): number[] {
  const all = shape.columns.map((_, i) => i).filter((i) => !shape.columns[i]?.virtual)
  if (!shape.withoutRowid) return all
  const key = [...new Set(shape.primaryKey)]
  return [...key, ...all.filter((i) => !key.includes(i))]
}

function* rowsOf(pager: Pager, table: Table, report: Report): Generator<Row> {
  for (const page of walkTree(pager, table.root, report)) {
    if (!holdsRows(table, page)) continue
    for (const at of page.cells) {
      const row = readRow(pager, table, page, at, report)
      if (row) yield row
    }
  }
}

/** Rows without rowid lie on interior pages too. */
function holdsRows(table: Table, { type }: BtreePage): boolean {
  if (!table.withoutRowid) return type === PAGE_TYPE.leafTable
  return type === PAGE_TYPE.leafIndex || type === PAGE_TYPE.interiorIndex
}

function readRow(pager: Pager, table: Table, page: BtreePage, at: number, report: Report) {
  try {
    const cell = readCell(page, at, pager.header.usableSize)
    return liveRow(pager, table, page, at, cell, readPayload(pager, page, cell))
  } catch (thrown) {
    return reportCell(thrown, table, page, report)
  }
}

function reportCell(thrown: unknown, table: Table, page: BtreePage, report: Report): undefined {
  if (!(thrown instanceof FormatError)) throw thrown
  report({
    code: 'row-skipped',
    message: `a row of ${table.name} on page ${page.number} is damaged: ${messageOf(thrown)}`,
  })
}

function liveRow(pager: Pager, table: Table, page: BtreePage, at: number, cell: Cell, payload: Uint8Array): Row {
  const stored = decodeRecord(payload, pager.header.encoding)
  return {
    table: table.name,
    rowid: cell.rowid,
    values: namedValues(table, stored, cell.rowid),
    missing: [],
    place: { kind: 'live', page: page.number, offset: pager.offsetOf(page.number) + at },
    standing: 'live',
    confidence: 1,
  }
}

/** A record's values under their column names: defaults for columns added later, the rowid for its alias. */
export function namedValues(table: Table, stored: SqlValue[], rowid: number | bigint | null): Record<string, SqlValue> {
  const values: Record<string, SqlValue> = Object.create(null)
  for (const [index, column] of table.columns.entries()) {
    const position = table.storedPosition[index] as number
    if (position < 0) continue
    const value = position < stored.length ? (stored[position] as SqlValue) : column.defaultValue
    values[column.name] = column.affinity === 'real' && typeof value === 'bigint' ? Number(value) : value
  }
  const alias = table.columns[table.rowidColumn]
  if (alias) values[alias.name] = rowid
  return values
}
