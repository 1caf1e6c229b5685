import type { Database, Table } from '../../database.js'
import { RecordView } from '../../record.js'
import type { SqlValue } from '../../values.js'
import { isUnknown } from '../evidence/unknown.js'
import { columnKeys, identityKey, rowKey, storedIdentityKey, valueKeys } from './keys.js'

/** What of a rebuilt row is compared with live ones, where its rowid was overwritten. */
export interface Unplaced {
  /** In stored order; undefined: lost. */
  values: readonly (SqlValue | undefined)[]
  whole: boolean
}

/** How a rebuilt row stands to the live rows of its table. */
export type Verdict = 'equal' | 'superseded' | 'deleted' | 'unsure'

/** A verdict, and of an older version the positions of the values that its live row changed. */
export interface Judgement {
  verdict: Verdict
  changed: readonly number[] | undefined
}

// A value that so many rebuilt rows share tells none of them from the others.
const MOST_SHARERS = 48

/**
 * Compares rebuilt rows of unknown rowid with the live rows of their table, in one walk. A live row with the same values
 * makes them a stale copy; one with the same key, or with most of the same values, a newer version.
 */
export function judge(database: Database, table: Table, rows: readonly Unplaced[]): Judgement[] {
  // A dropped table has no live rows, and its pages are no tree any more.
  if (database.tables.get(table.name) !== table) {
    const judgements = new Matcher(table, rows, new Set()).judgements()
    if (isUnknown(table)) markCopies(database, rows, judgements)
    return judgements
  }
  const matcher = new Matcher(table, rows, commonKeys(database, table))
  const record = new RecordView(database.pager.header.encoding)
  // A damaged live row says nothing about older ones; reading the table reports it.
  for (const { payload } of database.payloads(table)) if (record.tryOpen(payload)) matcher.see(record)
  return matcher.judgements()
}

/** A row of which no table is known is a stale copy where a live row of any table holds the same values. */
function markCopies(database: Database, rows: readonly Unplaced[], judgements: Judgement[]): void {
  const byRow = new Map<number, number[]>()
  const widths = new Set<number>()
  for (const [id, { values, whole }] of rows.entries())
    if (whole) {
      push(byRow, rowKey('', valueKeys(values)), id)
      widths.add(values.length)
    }
  const record = new RecordView(database.pager.header.encoding)
  for (const table of database.tables.values()) {
    if (!widths.has(table.storedOrder.length)) continue
    for (const { payload } of database.payloads(table))
      if (record.tryOpen(payload))
        for (const id of byRow.get(rowKey('', valueKeys(record.values()))) ?? [])
          judgements[id] = { verdict: 'equal', changed: undefined }
  }
}

// So many live rows say which values are everyday ones.
const SAMPLE_ROWS = 1000
// A value that so many of them share, and at least this share of them, does not tell one row from another.
const COMMON_ROWS = 4
const COMMON_SHARE = 0.02

/** Fingerprints of values that many live rows share: a folder, a kind, a size. */
function commonKeys(database: Database, table: Table): Set<number> {
  const counts = new Map<number, number>()
  const record = new RecordView(database.pager.header.encoding)
  let rows = 0
  for (const { payload } of database.payloads(table)) {
    if (rows >= SAMPLE_ROWS) break
    if (!record.tryOpen(payload)) continue
    const values = record.values()
    for (const key of columnKeys(values, valueKeys(values))) counts.set(key, (counts.get(key) ?? 0) + 1)
    rows++
  }
  const least = Math.max(COMMON_ROWS, rows * COMMON_SHARE)
  return new Set([...counts].flatMap(([key, count]) => (count >= least ? [key] : [])))
}

class Matcher {
  readonly #byColumn = new Map<number, number[]>()
  readonly #byRow = new Map<number, number[]>()
  readonly #byIdentity = new Map<number, number[]>()
  readonly #identities: number[][]
  /** What columns added later stand for in records written before. */
  readonly #defaults: SqlValue[]
  readonly #distinctive: number[]
  readonly #bestMatch: Int32Array
  readonly #equal: Uint8Array
  readonly #sameIdentity: Uint8Array
  readonly #knownIdentity: Uint8Array
  readonly #changed: (readonly number[] | undefined)[] = []

  constructor(
    readonly table: Table,
    readonly rows: readonly Unplaced[],
    /** Values that tell nothing. */
    readonly common: ReadonlySet<number>,
  ) {
    this.#identities = identitiesOf(table)
    this.#defaults = table.storedOrder.map((index) => table.columns[index]?.defaultValue ?? null)
    this.#bestMatch = new Int32Array(rows.length)
    this.#equal = new Uint8Array(rows.length)
    this.#sameIdentity = new Uint8Array(rows.length)
    this.#knownIdentity = new Uint8Array(rows.length)
    this.#distinctive = rows.map((row, id) => this.#index(row, id))
    for (const [key, sharers] of this.#byColumn) if (sharers.length > MOST_SHARERS) this.#byColumn.delete(key)
  }

  #index({ values, whole }: Unplaced, id: number): number {
    for (const [which, positions] of this.#identities.entries()) {
      const key = identityKey(which, positions, values)
      if (key === undefined) continue
      this.#knownIdentity[id] = 1
      push(this.#byIdentity, key, id)
    }
    // A row whose key is known needs no comparison with any other than the one of that key.
    if (this.#knownIdentity[id]) return 0
    const own = valueKeys(values)
    if (whole) push(this.#byRow, rowKey('', own), id)
    const keys = columnKeys(values, own).filter((key) => !this.common.has(key))
    for (const key of keys) push(this.#byColumn, key, id)
    return keys.length
  }

  /** Takes notice of a live row. */
  see(record: RecordView): void {
    for (let which = 0; which < this.#identities.length; which++) {
      const key = storedIdentityKey(which, this.#identities[which] as number[], record, this.#defaults)
      const sameKey = key === undefined ? undefined : this.#byIdentity.get(key)
      if (sameKey) this.#compare(sameKey, this.#valuesOf(record))
    }
    if (this.#byRow.size === 0 && this.#byColumn.size === 0) return
    const values = this.#valuesOf(record)
    const keys = valueKeys(values)
    for (const id of this.#byRow.get(rowKey('', keys)) ?? []) this.#equal[id] = 1
    this.#countMatches(values, columnKeys(values, keys))
  }

  #valuesOf(record: RecordView): SqlValue[] {
    return [...record.values(), ...this.#defaults.slice(record.count)]
  }

  #compare(ids: readonly number[], values: readonly SqlValue[]): void {
    for (const id of ids) {
      this.#sameIdentity[id] = 1
      this.#changed[id] = changedPositions((this.rows[id] as Unplaced).values, values)
      if (this.#changed[id]?.length === 0) this.#equal[id] = 1
    }
  }

  #countMatches(values: readonly SqlValue[], keys: readonly number[]): void {
    let counts: Map<number, number> | undefined
    for (const key of keys) {
      const sharers = this.#byColumn.get(key)
      if (!sharers) continue
      counts ??= new Map()
      for (const id of sharers) counts.set(id, (counts.get(id) ?? 0) + 1)
    }
    if (!counts) return
    for (const [id, count] of counts) {
      const row = this.rows[id] as Unplaced
      if (count <= (this.#bestMatch[id] as number)) continue
      this.#bestMatch[id] = count
      if (count < (this.#distinctive[id] as number) * SAME_ROW_SHARE) continue
      this.#changed[id] = changedPositions(row.values, values)
      if (!row.whole && count === this.#distinctive[id] && this.#changed[id]?.length === 0) this.#equal[id] = 1
    }
  }

  judgements(): Judgement[] {
    return this.rows.map((_, id) => {
      const verdict = this.#verdict(id)
      return { verdict, changed: verdict === 'superseded' ? this.#changed[id] : undefined }
    })
  }

  #verdict(id: number): Verdict {
    if (this.#equal[id]) return 'equal'
    if (this.#sameIdentity[id]) return 'superseded'
    if (this.#knownIdentity[id]) return 'deleted'
    const all = this.#distinctive[id] as number
    if (all === 0) return 'unsure'
    const share = (this.#bestMatch[id] as number) / all
    return share <= OTHER_ROW_SHARE ? 'deleted' : share >= SAME_ROW_SHARE ? 'superseded' : 'unsure'
  }
}

// So much of a row's distinctive values in a live row make it the same row, changed since.
const SAME_ROW_SHARE = 0.6
// And so little says that it is another one: two films may share their kind, and nothing else.
const OTHER_ROW_SHARE = 0.2

function push(map: Map<number, number[]>, key: number, id: number): void {
  const known = map.get(key)
  if (known) known.push(id)
  else map.set(key, [id])
}

/** Positions of known values that are not those of the live row. */
export function changedPositions(
  known: readonly (SqlValue | undefined)[],
  live: readonly (SqlValue | undefined)[],
): number[] {
  const changed: number[] = []
  for (const [position, value] of known.entries())
    if (value !== undefined && !sameValue(value, live[position])) changed.push(position)
  return changed
}

/** Equality of stored values; blobs by their bytes. */
function sameValue(a: SqlValue, b: SqlValue | undefined): boolean {
  if (a instanceof Uint8Array) return b instanceof Uint8Array && Buffer.compare(a, b) === 0
  return a === b || (typeof a !== typeof b && a !== null && b !== null && b !== undefined && String(a) === String(b))
}

/** Positions in the record that tell a row from all others: its primary key, each unique column. */
function identitiesOf(table: Table): number[][] {
  const position = (index: number) => table.storedOrder.indexOf(index)
  const key = table.rowidColumn >= 0 ? [] : table.primaryKey.map(position)
  const unique = table.columns.flatMap((column, index) =>
    column.unique && index !== table.rowidColumn ? [[position(index)]] : [],
  )
  return [...(key.length > 0 ? [key] : []), ...unique].filter((positions) => positions.every((one) => one >= 0))
}
