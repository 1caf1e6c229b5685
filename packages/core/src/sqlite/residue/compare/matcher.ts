import type { Table } from '../../database.js'
import type { RecordView } from '../../record.js'
import type { SqlValue } from '../../values.js'
import { changedPositions } from './changes.js'
import { KeyIndex } from './key-index.js'
import {
  columnKey,
  columnKeys,
  identityKey,
  rowKey,
  storedIdentityKey,
  storedKey,
  valueKey,
  valueKeys,
} from './keys.js'

type Value = SqlValue | undefined

/** What of a rebuilt row is compared with live ones, where its rowid was overwritten. */
export interface Unplaced {
  /** In stored order; undefined: lost. */
  values: readonly (SqlValue | undefined)[]
  whole: boolean
}

/** Many of them, each made when it is asked for. */
export interface UnplacedRows {
  count: number
  at(id: number): Unplaced
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
// So much of a row's distinctive values in a live row make it the same row, changed since.
const SAME_ROW_SHARE = 0.6
// And so little says that it is another one: two films may share their kind, and nothing else.
const OTHER_ROW_SHARE = 0.2

/**
 * Rebuilt rows of one table beside its live rows, each of which is seen once. Of the rebuilt ones it keeps fingerprints
 * only, so that however many there are, one walk over the live rows judges them all.
 */
export class Matcher {
  readonly #byColumn = new KeyIndex()
  readonly #byRow = new KeyIndex()
  readonly #byIdentity = new KeyIndex()
  readonly #identities: number[][]
  /** What columns added later stand for in records written before, and the fingerprints of that. */
  readonly #defaults: SqlValue[]
  readonly #defaultKeys: number[]
  readonly #distinctive: Int32Array
  readonly #bestMatch: Int32Array
  readonly #equal: Uint8Array
  readonly #sameIdentity: Uint8Array
  readonly #knownIdentity: Uint8Array
  readonly #changed = new Map<number, readonly number[]>()
  /** Of the live row at hand: how many of each rebuilt row's values it has, and which rows those are. */
  readonly #counts: Uint16Array
  #touched: number[] = []
  readonly #keys: number[] = []

  constructor(
    readonly table: Table,
    readonly rows: UnplacedRows,
    /** Values that tell nothing. */
    readonly common: ReadonlySet<number>,
  ) {
    this.#identities = identitiesOf(table)
    this.#defaults = table.storedOrder.map((index) => table.columns[index]?.defaultValue ?? null)
    this.#defaultKeys = this.#defaults.map(valueKey)
    this.#distinctive = new Int32Array(rows.count)
    this.#bestMatch = new Int32Array(rows.count)
    this.#equal = new Uint8Array(rows.count)
    this.#sameIdentity = new Uint8Array(rows.count)
    this.#knownIdentity = new Uint8Array(rows.count)
    this.#counts = new Uint16Array(rows.count)
    for (let id = 0; id < rows.count; id++) this.#distinctive[id] = this.#index(rows.at(id), id)
    this.#byColumn.forgetShared(MOST_SHARERS, (id) => {
      this.#distinctive[id] = (this.#distinctive[id] as number) - 1
    })
  }

  #index({ values, whole }: Unplaced, id: number): number {
    for (const [which, positions] of this.#identities.entries()) {
      const key = identityKey(which, positions, values)
      if (key === undefined) continue
      this.#knownIdentity[id] = 1
      this.#byIdentity.add(key, id)
    }
    // A row whose key is known needs no comparison with any other than the one of that key.
    if (this.#knownIdentity[id]) return 0
    const own = valueKeys(values)
    if (whole) this.#byRow.add(rowKey('', own), id)
    const keys = columnKeys(values, own).filter((key) => !this.common.has(key))
    for (const key of keys) this.#byColumn.add(key, id)
    return keys.length
  }

  /** Takes notice of a live row where it is stored. */
  see(record: RecordView): void {
    for (let which = 0; which < this.#identities.length; which++) {
      const key = storedIdentityKey(which, this.#identities[which] as number[], record, this.#defaults)
      this.#compare(key, () => this.#valuesOf(record))
    }
    if (this.#byRow.size === 0 && this.#byColumn.size === 0) return
    this.#count(this.#keysOf(record), () => this.#valuesOf(record))
  }

  /** The same for one whose values are known, in stored order; undefined: it has no such column. */
  seeValues(values: readonly Value[]): void {
    for (const [which, positions] of this.#identities.entries())
      this.#compare(identityKey(which, positions, values), () => values)
    this.#count(valueKeys(values), () => values)
  }

  /** The fingerprints of a live row's values, made from its bytes. */
  #keysOf(record: RecordView): readonly number[] {
    const keys = this.#keys
    keys.length = 0
    for (let position = 0; position < record.count; position++) keys.push(storedKey(record, position))
    for (let position = record.count; position < this.#defaults.length; position++)
      keys.push(this.#defaultKeys[position] as number)
    return keys
  }

  #valuesOf(record: RecordView): SqlValue[] {
    return [...record.values(), ...this.#defaults.slice(record.count)]
  }

  #compare(key: number | undefined, valuesOf: () => readonly Value[]): void {
    if (key === undefined) return
    let values: readonly Value[] | undefined
    for (let entry = this.#byIdentity.first(key); entry >= 0; entry = this.#byIdentity.next(entry)) {
      const id = this.#byIdentity.id(entry)
      values ??= valuesOf()
      const changed = changedPositions(this.rows.at(id).values, values)
      this.#sameIdentity[id] = 1
      this.#changed.set(id, changed)
      if (changed.length === 0) this.#equal[id] = 1
    }
  }

  #count(keys: readonly number[], valuesOf: () => readonly Value[]): void {
    if (this.#byRow.size > 0)
      for (let entry = this.#byRow.first(rowKey('', keys)); entry >= 0; entry = this.#byRow.next(entry))
        this.#equal[this.#byRow.id(entry)] = 1
    if (this.#byColumn.size === 0) return
    const touched = this.#touched
    for (let position = 0; position < keys.length; position++) {
      // What tells nothing of a rebuilt row is in no index: NULLs, small numbers, short words.
      let entry = this.#byColumn.first(columnKey(position, keys[position] as number))
      for (; entry >= 0; entry = this.#byColumn.next(entry)) {
        const id = this.#byColumn.id(entry)
        const count = this.#counts[id] as number
        if (count === 0) touched.push(id)
        this.#counts[id] = count + 1
      }
    }
    if (touched.length === 0) return
    let values: readonly Value[] | undefined
    for (const id of touched) {
      const count = this.#counts[id] as number
      this.#counts[id] = 0
      if (count <= (this.#bestMatch[id] as number)) continue
      this.#bestMatch[id] = count
      if (count < (this.#distinctive[id] as number) * SAME_ROW_SHARE) continue
      const row = this.rows.at(id)
      values ??= valuesOf()
      const changed = changedPositions(row.values, values)
      this.#changed.set(id, changed)
      if (!row.whole && count === this.#distinctive[id] && changed.length === 0) this.#equal[id] = 1
    }
    touched.length = 0
  }

  /** How a rebuilt row stands, once all live rows were seen. */
  judgement(id: number): Judgement {
    const verdict = this.#verdict(id)
    return { verdict, changed: verdict === 'superseded' ? this.#changed.get(id) : undefined }
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

/** Positions in the record that tell a row from all others: its primary key, each unique column. */
function identitiesOf(table: Table): number[][] {
  const position = (index: number) => table.storedOrder.indexOf(index)
  const key = table.rowidColumn >= 0 ? [] : table.primaryKey.map(position)
  const unique = table.columns.flatMap((column, index) =>
    column.unique && index !== table.rowidColumn ? [[position(index)]] : [],
  )
  return [...(key.length > 0 ? [key] : []), ...unique].filter((positions) => positions.every((one) => one >= 0))
}
