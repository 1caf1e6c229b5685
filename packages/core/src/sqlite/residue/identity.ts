import type { Database, Table } from '../database.js'
import type { SqlValue } from '../values.js'
import { columnKeys, Fingerprint, rowKey } from './keys.js'

/** What of a rebuilt row is compared with live ones, where its rowid was overwritten. */
export interface Unplaced {
  table: Table
  /** In stored order; undefined: lost. */
  values: readonly (SqlValue | undefined)[]
  whole: boolean
}

/** How a rebuilt row stands to the live rows of its table. */
export type Verdict = 'equal' | 'superseded' | 'deleted' | 'unsure'

// A value that so many rebuilt rows share tells none of them from the others.
const MOST_SHARERS = 48

/**
 * Compares rebuilt rows of unknown rowid with the live rows of their table, in one walk. A live row with the same values
 * makes them a stale copy; one with the same key, or with most of the same values, a newer version.
 */
export function judge(database: Database, table: Table, rows: readonly Unplaced[]): Verdict[] {
  const matcher = new Matcher(table, rows)
  // A dropped table has no live rows, and its pages are no tree any more.
  if (database.tables.get(table.name) !== table) return matcher.verdicts()
  const defaults = table.storedOrder.map((index) => table.columns[index]?.defaultValue ?? null)
  for (const page of database.storedRows(table))
    for (const values of page)
      matcher.see(values.length < defaults.length ? [...values, ...defaults.slice(values.length)] : values)
  return matcher.verdicts()
}

class Matcher {
  readonly #byColumn = new Map<number, number[]>()
  readonly #byRow = new Map<number, number[]>()
  readonly #byIdentity = new Map<number, number[]>()
  readonly #identities: number[][]
  readonly #distinctive: number[]
  readonly #bestMatch: Int32Array
  readonly #equal: Uint8Array
  readonly #sameIdentity: Uint8Array
  readonly #knownIdentity: Uint8Array

  constructor(
    readonly table: Table,
    readonly rows: readonly Unplaced[],
  ) {
    this.#identities = identitiesOf(table)
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
    if (whole) push(this.#byRow, rowKey('', values), id)
    const keys = columnKeys(values)
    for (const key of keys) push(this.#byColumn, key, id)
    return keys.length
  }

  /** Takes notice of a live row. */
  see(values: readonly SqlValue[]): void {
    if (this.#byRow.size > 0) for (const id of this.#byRow.get(rowKey('', values)) ?? []) this.#equal[id] = 1
    for (const [which, positions] of this.#identities.entries()) {
      const key = identityKey(which, positions, values)
      for (const id of (key !== undefined && this.#byIdentity.get(key)) || []) {
        this.#sameIdentity[id] = 1
        if (agrees((this.rows[id] as Unplaced).values, values)) this.#equal[id] = 1
      }
    }
    if (this.#byColumn.size > 0) this.#countMatches(values)
  }

  #countMatches(values: readonly SqlValue[]): void {
    let counts: Map<number, number> | undefined
    for (const key of columnKeys(values)) {
      const sharers = this.#byColumn.get(key)
      if (!sharers) continue
      counts ??= new Map()
      for (const id of sharers) counts.set(id, (counts.get(id) ?? 0) + 1)
    }
    if (!counts) return
    for (const [id, count] of counts) {
      if (count > (this.#bestMatch[id] as number)) this.#bestMatch[id] = count
      const row = this.rows[id] as Unplaced
      if (!row.whole && count === this.#distinctive[id] && agrees(row.values, values)) this.#equal[id] = 1
    }
  }

  verdicts(): Verdict[] {
    return this.rows.map((_, id) => {
      if (this.#equal[id]) return 'equal'
      if (this.#sameIdentity[id]) return 'superseded'
      if (this.#knownIdentity[id]) return 'deleted'
      const all = this.#distinctive[id] as number
      if (all === 0) return 'unsure'
      const share = (this.#bestMatch[id] as number) / all
      return share === 0 ? 'deleted' : share >= 0.6 ? 'superseded' : 'unsure'
    })
  }
}

function push(map: Map<number, number[]>, key: number, id: number): void {
  const known = map.get(key)
  if (known) known.push(id)
  else map.set(key, [id])
}

/** True if all values that are known are those of the live row. */
const agrees = (known: readonly (SqlValue | undefined)[], live: readonly SqlValue[]) =>
  known.every((value, position) => value === undefined || sameValue(value, live[position]))

/** Equality of stored values; blobs by their bytes. */
export function sameValue(a: SqlValue, b: SqlValue | undefined): boolean {
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

function identityKey(
  which: number,
  positions: readonly number[],
  values: readonly (SqlValue | undefined)[],
): number | undefined {
  const print = new Fingerprint().add(which)
  for (const position of positions) {
    const value = values[position]
    // NULLs are never equal to each other, so they identify nothing.
    if (value === undefined || value === null) return undefined
    print.add(value)
  }
  return print.value
}
