import { type BtreePage, PAGE_TYPE, readCell } from '../btree.js'
import type { Catalogue } from '../catalogue.js'
import type { Database, Table } from '../database.js'
import type { Column } from '../ddl.js'
import { readVarint, type Varint } from '../varint.js'

/** Storage classes as bits, by which a column says what it can hold. */
export const CLASS = { null: 1, integer: 2, real: 4, text: 8, blob: 16 } as const

/** The class of a serial type; 0 for the two reserved ones. */
export function classOf(serial: number): number {
  if (serial >= 12) return serial % 2 === 0 ? CLASS.blob : CLASS.text
  if (serial === 0) return CLASS.null
  if (serial === 7) return CLASS.real
  return serial === 10 || serial === 11 ? 0 : CLASS.integer
}

/** What a table's records can look like, and what they usually look like. */
export interface Profile {
  table: Table
  /** Columns that a record of today stores. */
  columns: number
  /** Columns that a record has at least: those behind it may have been added later. */
  leastColumns: number
  /** Position in the record of the column that stands for the rowid; -1: none. */
  alias: number
  /** By position: classes that SQLite can have stored there. */
  legal: Uint8Array
  /** By position: classes that live rows hold there; all legal ones while there are no live rows. */
  usual: Uint8Array
  /** Live rows were seen, so `usual` says something. */
  learned: boolean
  /** Belongs to a dropped table, whose name is not told. */
  dropped: boolean
}

/** Profiles of all tables, with what their live rows teach. */
export async function profilesOf(
  database: Database,
  catalogue: Catalogue,
  dropped: readonly Table[],
): Promise<Profile[]> {
  const profiles: Profile[] = []
  for (const tree of catalogue.trees) {
    if (!tree.table || tree.root === 1) continue
    const profile = profileOf(tree.table, false)
    await learn(database, profile, tree.leaves)
    profiles.push(profile)
  }
  return [...profiles, ...dropped.map((table) => profileOf(table, true))]
}

/** A profile from the table's definition alone. */
export function profileOf(table: Table, dropped: boolean): Profile {
  const stored = table.storedOrder.map((index) => table.columns[index] as Column)
  const alias = table.storedOrder.indexOf(table.rowidColumn)
  const legal = Uint8Array.from(stored, (column, position) => (position === alias ? CLASS.null : legalClasses(column)))
  return {
    table,
    columns: stored.length,
    leastColumns: leastColumns(table, stored),
    alias,
    legal,
    usual: legal.slice(),
    learned: false,
    dropped,
  }
}

/** SQLite converts on the way in, so some classes cannot come about ("Datatypes In SQLite", section 3). */
function legalClasses(column: Column): number {
  const some = CLASS.text | CLASS.blob
  const classes = {
    integer: some | CLASS.integer | CLASS.real,
    numeric: some | CLASS.integer | CLASS.real,
    real: some | CLASS.integer | CLASS.real,
    text: some,
    blob: some | CLASS.integer | CLASS.real,
  }
  return classes[column.affinity] | (column.notNull ? 0 : CLASS.null)
}

/** Columns can be added at the end only, and then neither as a key nor as NOT NULL without a default. */
function leastColumns(table: Table, stored: Column[]): number {
  let least = stored.length
  while (least > 1) {
    const column = stored[least - 1] as Column
    const index = table.storedOrder[least - 1] as number
    if (table.primaryKey.includes(index) || (column.notNull && column.defaultValue === null)) break
    least--
  }
  return least
}

const SAMPLE_LEAVES = 24

async function learn(database: Database, profile: Profile, leaves: readonly number[]): Promise<void> {
  if (profile.table.withoutRowid || leaves.length === 0) return
  const seen = new Uint8Array(profile.columns)
  let rows = 0
  const step = Math.max(1, Math.floor(leaves.length / SAMPLE_LEAVES))
  for (let i = 0; i < leaves.length; i += step) {
    const number = leaves[i] as number
    const page = database.btreePage(number, await database.pager.page(number))
    if (page?.type === PAGE_TYPE.leafTable) rows += noteClasses(page, seen, database.pager.header.usableSize)
  }
  if (rows < 8) return
  profile.learned = true
  profile.usual = profile.legal.map((legal, position) => legal & ((seen[position] as number) | CLASS.null))
}

const varint: Varint = { value: 0, size: 0 }

function noteClasses(page: BtreePage, seen: Uint8Array, usableSize: number): number {
  let rows = 0
  for (const at of page.cells) {
    const cell = tryCell(page, at, usableSize)
    if (!cell || !readVarint(page.bytes, cell.payloadStart, usableSize, varint)) continue
    const end = Math.min(cell.payloadStart + varint.value, usableSize)
    let position = 0
    for (let cursor = cell.payloadStart + varint.size; cursor < end && position < seen.length; cursor += varint.size) {
      if (!readVarint(page.bytes, cursor, end, varint)) break
      seen[position] = (seen[position] as number) | classOf(varint.value)
      position++
    }
    rows++
  }
  return rows
}

function tryCell(page: BtreePage, at: number, usableSize: number) {
  try {
    return readCell(page, at, usableSize)
  } catch {
    return undefined
  }
}
