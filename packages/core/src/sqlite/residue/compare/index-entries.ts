import type { SqlValue } from '../../values.js'
import { changedPositions } from './changes.js'
import { KeyTable } from './key-table.js'
import { isDistinctive, rowKey, valueKey } from './keys.js'
import type { LiveRows } from './live.js'

type Value = SqlValue | undefined

/**
 * Tells entries of an index from rows of a table WITHOUT ROWID, which are stored alike: an entry holds some values of a row
 * and, behind them, what that row is known by: its rowid, or its primary key ("Database File Format", section 2.3).
 */
export class IndexEntries {
  /** Fingerprints of a value of a row together with what that row is known by. */
  readonly #pairs = new KeyTable()
  /** Of rows of the width at hand, which entries of the same width must not be held against. */
  #waiting: number[] = []
  #width = 0

  constructor(readonly live: LiveRows) {}

  /** Takes notice of a row that was told. Those without rowid come in the order of their widths, the widest first. */
  note(values: readonly Value[], keys: readonly number[], rowid: number | bigint | null): void {
    if (rowid !== null) for (const key of pairsWith(valueKey(rowid), values, keys)) this.#pairs.add(key)
    else if (values[0] !== undefined) this.#waiting.push(...pairsWith(keys[0] as number, values, keys))
  }

  /** Whether a row that is live, or was told, is the one that these values would be an entry for. */
  has(values: readonly Value[], keys: readonly number[]): boolean {
    this.#turnTo(values.length)
    const own = values.slice(0, -1)
    // Small numbers stand together by chance.
    if (!own.some(isDistinctive) || values.includes(undefined)) return false
    const known = keys.at(-1) as number
    if (own.every((value, i) => value === null || this.#pairs.has(pair(keys[i] as number, known)))) return true
    const rowid = values.at(-1)
    const isRowid = typeof rowid === 'bigint' || (typeof rowid === 'number' && Number.isInteger(rowid))
    return isRowid && this.live.someWith(rowid, (row) => own.every((value) => row.some((one) => isSame(value, one))))
  }

  #turnTo(width: number): void {
    if (width === this.#width) return
    for (const key of this.#waiting) this.#pairs.add(key)
    this.#waiting = []
    this.#width = width
  }
}

// Of wide rows the first values say enough.
const MOST_PAIRS = 12

function pairsWith(known: number, values: readonly Value[], keys: readonly number[]): number[] {
  const pairs: number[] = []
  for (let i = 0; i < values.length && pairs.length < MOST_PAIRS; i++)
    if (values[i] !== undefined && values[i] !== null) pairs.push(pair(keys[i] as number, known))
  return pairs
}

const pair = (value: number, known: number): number => rowKey('', [value, known])

const isSame = (value: Value, stored: Value): boolean => changedPositions([value], [stored]).length === 0
