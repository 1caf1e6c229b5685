import { type BtreePage, PAGE_TYPE, readCell } from '../../btree.js'
import type { Catalogue } from '../../catalogue.js'
import { type Database, SCHEMA_TABLE, type Table } from '../../database.js'
import type { Column } from '../../ddl.js'
import { decodeValue, serialSize } from '../../record.js'
import { readVarint, type Varint } from '../../varint.js'

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
  /** Columns of the shortest live record. */
  shortest: number
  /** Position in the record of the column that stands for the rowid; -1: none. */
  alias: number
  /** By position, as the columns are declared. */
  affinities: Column['affinity'][]
  /** By position: classes that SQLite can have stored there. */
  legal: Uint8Array
  /** By position: classes that live rows hold there; all legal ones while there are no live rows. */
  usual: Uint8Array
  /** Live rows were seen, so `usual` says something. */
  fitted: boolean
  /** By position: what the values of live rows lie between. */
  ranges: Range[]
  /** Belongs to a dropped table: its rows come without a name. */
  dropped: boolean
}

/** Smallest and largest number, shortest and longest text that live rows hold in a column. */
export interface Range {
  numbers: number
  low: number
  high: number
  /** How many are at least the one before, in the order of the rows. */
  rises: number
  last: number
  /** How many have each serial type below 12, and then how many are a text, and a blob. */
  kinds: Uint32Array
  texts: number
  shortest: number
  longest: number
  /** How often each byte occurs in texts, at even and at odd offsets; then how many bytes that are, of either. */
  letters: Uint32Array
}

/** Profiles of all tables, with what their live rows teach; then of those that were dropped, or had other columns before. */
export function profilesOf(database: Database, catalogue: Catalogue, dropped: readonly Table[]): Profile[] {
  const profiles: Profile[] = []
  for (const tree of catalogue.trees) {
    if (!tree.table) continue
    const profile = tree.table === SCHEMA_TABLE ? schemaProfile() : profileOf(tree.table, false)
    if (tree.table !== SCHEMA_TABLE) learn(database, profile, tree.leaves)
    profiles.push(profile)
  }
  return [...profiles, ...dropped.map((table) => (table.now ? formerProfile(table, profiles) : profileOf(table, true)))]
}

/** Of columns that a table had before: with what its live rows teach of those that it has still. */
function formerProfile(table: Table, profiles: readonly Profile[]): Profile {
  const before = profileOf(table, false)
  const now = profiles.find((profile) => profile.table === table.now)
  const whole = { ...before, leastColumns: before.columns }
  if (!now?.fitted) return whole
  const places = table.storedOrder.map((index) =>
    now.table.storedOrder.findIndex((today) => now.table.columns[today]?.name === table.columns[index]?.name),
  )
  return {
    ...whole,
    usual: before.usual.map((usual, position) => now.usual[places[position] as number] ?? usual),
    ranges: before.ranges.map((range, position) => now.ranges[places[position] as number] ?? range),
    fitted: true,
  }
}

/** What rows of the schema look like is known without any. */
export function schemaProfile(): Profile {
  const { text, integer } = CLASS
  const usual = Uint8Array.of(text, text, text, integer, text)
  return { ...profileOf(SCHEMA_TABLE, false), leastColumns: usual.length, usual, fitted: true }
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
    shortest: stored.length,
    alias,
    affinities: stored.map(({ affinity }) => affinity),
    legal,
    usual: legal.slice(),
    fitted: false,
    ranges: stored.map(() => ({
      numbers: 0,
      low: Infinity,
      high: -Infinity,
      rises: 0,
      last: NaN,
      kinds: new Uint32Array(KINDS),
      texts: 0,
      shortest: Infinity,
      longest: 0,
      letters: new Uint32Array(2 * 256 + 2),
    })),
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
// So many rows, or values, say something about those that are gone.
const ENOUGH = 8

function learn(database: Database, profile: Profile, leaves: readonly number[]): void {
  if (leaves.length === 0) return
  const fit = new ProfileFit(profile)
  const step = Math.max(1, Math.floor(leaves.length / SAMPLE_LEAVES))
  for (let i = 0; i < leaves.length; i += step) {
    const number = leaves[i] as number
    const bytes = database.pager.tryPage(number)
    const page = bytes && database.btreePage(number, bytes)
    if (page?.type === PAGE_TYPE.leafTable || page?.type === PAGE_TYPE.leafIndex)
      fit.see(page, database.pager.header.usableSize)
  }
  Object.assign(profile, fit.profile())
}

/** Makes the profile of a table from rows of it, page by page. */
export class ProfileFit {
  readonly #taught: Profile
  readonly #seen: Uint8Array
  #rows = 0

  constructor(readonly known: Profile) {
    this.#taught = profileOf(known.table, known.dropped)
    this.#seen = new Uint8Array(known.columns)
  }

  see(page: BtreePage, usableSize: number): void {
    this.#rows += noteClasses(page, this.#taught, this.#seen, usableSize)
  }

  /** What the rows teach; what was known before, where they are too few. */
  profile(): Profile {
    if (this.#rows < ENOUGH) return this.known
    const usual = this.#taught.legal.map((legal, position) => legal & ((this.#seen[position] as number) | CLASS.null))
    return { ...this.#taught, usual, fitted: true }
  }
}

const varint: Varint = { value: 0, size: 0 }

function noteClasses(page: BtreePage, profile: Profile, seen: Uint8Array, usableSize: number): number {
  let rows = 0
  for (const at of page.cells) {
    const cell = tryCell(page, at, usableSize)
    if (!cell || !readVarint(page.bytes, cell.payloadStart, usableSize, varint)) continue
    const end = Math.min(cell.payloadStart + varint.value, usableSize)
    let body = cell.payloadStart + varint.value
    let position = 0
    for (let cursor = cell.payloadStart + varint.size; cursor < end && position < seen.length; cursor += varint.size) {
      if (!readVarint(page.bytes, cursor, end, varint)) break
      const type = varint.value
      seen[position] = (seen[position] as number) | classOf(type)
      const size = type === 10 || type === 11 ? 0 : serialSize(type)
      if (body + size <= cell.end) noteRange(profile.ranges[position] as Range, page.bytes, body, type, size)
      body += size
      position++
    }
    if (position > 0) profile.shortest = Math.min(profile.shortest, position)
    rows++
  }
  return rows
}

// The serial types below 12, then texts, then blobs.
const KINDS = 14
export const kindOf = (serial: number): number => (serial < 12 ? serial : serial % 2 === 0 ? 13 : 12)

function noteRange(range: Range, bytes: Uint8Array, at: number, type: number, size: number): void {
  const kind = kindOf(type)
  range.kinds[kind] = (range.kinds[kind] as number) + 1
  if (type >= 12) {
    range.texts++
    range.shortest = Math.min(range.shortest, size)
    range.longest = Math.max(range.longest, size)
    if (type % 2 === 1) noteLetters(range.letters, bytes, at, Math.min(size, MOST_LETTERS))
  } else if (type > 0 && type < 10) {
    const value = Number(decodeValue(bytes, at, type, size, 'utf8'))
    range.numbers++
    range.low = Math.min(range.low, value)
    range.high = Math.max(range.high, value)
    if (value >= range.last) range.rises++
    range.last = value
  }
}

const COUNTING_SHARE = 0.9

/** A column in which nearly each number is at least the one before: its old rows lie elsewhere than its new ones. */
export const countsUp = ({ rises, numbers }: Range): boolean => rises > COUNTING_SHARE * numbers

const MOST_LETTERS = 64

function noteLetters(letters: Uint32Array, bytes: Uint8Array, at: number, count: number): void {
  for (let i = 0; i < count; i++) {
    const half = i & 1
    const letter = half * 256 + (bytes[at + i] as number)
    letters[letter] = (letters[letter] as number) + 1
    letters[512 + half] = (letters[512 + half] as number) + 1
  }
}

// Nanoseconds and microseconds since 1970, 2001 or 1601 for the times of these devices, which begin in 2007.
const LATE_TIMES = [
  [1.8e17, 1.2e18],
  [1.1e15, 2.2e15],
  [1.28e16, 1.4e16],
] as const

export const isLateTime = (value: number): boolean => LATE_TIMES.some(([from, to]) => value > from && value < to)

/** Bits for and against a number in a column, by what live rows hold there; without any, by whether it can be a time. */
export function weighNumber({ numbers, low, high }: Range, value: number): number {
  if (numbers < ENOUGH) return isLateTime(value) ? 4 : 0
  const span = high - low + 2
  const beyond = Math.max(low - value, value - high)
  // Numbers that count up lie behind all others when the newest rows are the ones that went.
  return beyond <= span ? 2 : beyond <= 4 * span ? 0 : beyond <= 16 * span ? -4 : -12
}

/** The same for the length of a text or blob, in bytes. */
export function weighLength({ texts, shortest, longest }: Range, size: number): number {
  if (texts < ENOUGH) return 0
  if (shortest === longest) return size === shortest ? 4 : -8
  return size <= 4 * longest + 16 ? 0.5 : -4
}

function tryCell(page: BtreePage, at: number, usableSize: number) {
  try {
    return readCell(page, at, usableSize)
  } catch {
    return undefined
  }
}
