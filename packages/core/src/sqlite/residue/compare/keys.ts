import { type RecordView, serialSize } from '../../record.js'
import type { SqlValue } from '../../values.js'

const SPREAD = 0x01000193
const SECOND_SPREAD = 0x85ebca6b

/**
 * 53-bit fingerprints, for telling equal values and rows without keeping them. A value's is made once, and those of rows
 * and keys from those of their values.
 */
let low = 0
let high = 0

function begin(): void {
  low = 0x811c9dc5
  high = 0x2545f491
}

function mix(part: number): void {
  low = Math.imul(low ^ part, SPREAD)
  low ^= low >>> 15
  high = Math.imul(high ^ (part + 0x9e37), SECOND_SPREAD) ^ low
}

const end = (): number => (high & 0x1fffff) * 2 ** 32 + (low >>> 0)

const TEXT = 0x10000
const BLOB = 0x20000
const OTHER = 0x30000
const NUMBER = new DataView(new ArrayBuffer(8))

/** Fingerprint of a value; undefined stands for one that was lost. */
export function valueKey(value: SqlValue | undefined): number {
  begin()
  if (typeof value === 'string') mixText(value, TEXT)
  else if (typeof value === 'number') mixNumber(value)
  else if (value instanceof Uint8Array) mixBytes(value, 0, value.length, BLOB)
  else mixText(`${value}`, typeof value === 'bigint' ? TEXT : OTHER)
  return end()
}

/** The same for a value where it is stored; a text in UTF-8 is not made into a string for it. */
export function storedKey(record: RecordView, position: number): number {
  const type = record.types[position] as number
  const isBlob = type % 2 === 0
  if (type < 12 || !(isBlob || record.encoding === 'utf8')) return valueKey(record.value(position))
  const from = record.starts[position] as number
  begin()
  mixBytes(record.bytes, from, from + serialSize(type), isBlob ? BLOB : TEXT)
  return end()
}

/** Of all values of a stored record. */
export function storedKeys(record: RecordView): number[] {
  const keys: number[] = []
  for (let position = 0; position < record.count; position++) keys.push(storedKey(record, position))
  return keys
}

function mixNumber(value: number): void {
  // Whole numbers beyond this come as bigints from some columns and as numbers from others.
  if (Number.isInteger(value) && !Number.isSafeInteger(value)) mixText(`${BigInt(value)}`, TEXT)
  else {
    NUMBER.setFloat64(0, value === 0 ? 0 : value)
    mix(NUMBER.getInt32(0))
    mix(NUMBER.getInt32(4))
  }
}

// Longer texts are rare enough to be made bytes of one by one.
const SCRATCH = Buffer.alloc(1 << 12)

/** By its bytes in UTF-8, as most databases store it. */
function mixText(text: string, kind: number): void {
  if (text.length * 3 <= SCRATCH.length) mixBytes(SCRATCH, 0, SCRATCH.write(text), kind)
  else {
    const bytes = Buffer.from(text)
    mixBytes(bytes, 0, bytes.length, kind)
  }
}

/** Four bytes at a time. */
function mixBytes(bytes: Uint8Array, from: number, to: number, kind: number): void {
  mix(to - from + kind)
  let at = from
  for (; at + 4 <= to; at += 4)
    mix(
      (bytes[at] as number) |
        ((bytes[at + 1] as number) << 8) |
        ((bytes[at + 2] as number) << 16) |
        ((bytes[at + 3] as number) << 24),
    )
  let rest = 0
  for (; at < to; at++) rest = (rest << 8) | (bytes[at] as number)
  mix(rest)
}

function mixKey(key: number): void {
  mix(key | 0)
  mix((key / 2 ** 32) | 0)
}

/** Fingerprints of all values of a row. */
export function valueKeys(values: readonly (SqlValue | undefined)[]): number[] {
  const keys: number[] = []
  for (let i = 0; i < values.length; i++) keys.push(valueKey(values[i]))
  return keys
}

/** Fingerprint of a whole row of a table, from those of its values. */
export function rowKey(table: string, keys: readonly number[], rowid?: number | bigint | null): number {
  const rowidKey = rowid === undefined ? 0 : valueKey(rowid)
  begin()
  mixText(table, TEXT)
  mixKey(rowidKey)
  for (let i = 0; i < keys.length; i++) mixKey(keys[i] as number)
  return end()
}

/** True for values that few rows share: what tells one row from another. */
export function isDistinctive(value: SqlValue | undefined): boolean {
  if (typeof value === 'string') return value.length >= 3
  if (value instanceof Uint8Array) return value.length >= 4
  if (typeof value === 'bigint') return true
  return typeof value === 'number' && (!Number.isInteger(value) || Math.abs(value) > 255)
}

/** Fingerprints of a row's distinctive values, each with its position. */
export function columnKeys(values: readonly (SqlValue | undefined)[], keys: readonly number[]): number[] {
  const distinctive: number[] = []
  for (let position = 0; position < values.length; position++)
    if (isDistinctive(values[position])) distinctive.push(columnKey(position, keys[position] as number))
  return distinctive
}

/** Fingerprint of a value at its position in the record, from that of the value; or of a key, by which one it is. */
export function columnKey(which: number, key: number): number {
  begin()
  mix(which)
  mixKey(key)
  return end()
}

/** Fingerprint of some of a row's values; undefined where one is lost or NULL: NULLs are never equal to each other. */
export function identityKey(
  which: number,
  positions: readonly number[],
  values: readonly (SqlValue | undefined)[],
): number | undefined {
  const keys: number[] = []
  for (const position of positions) {
    if (values[position] === undefined || values[position] === null) return undefined
    keys.push(valueKey(values[position]))
  }
  return keys.length === 1 ? columnKey(which, keys[0] as number) : columnKey(which, rowKey('', keys))
}

/** The same of a row where it is stored. `defaults` stand for columns that a short record lacks. */
export function storedIdentityKey(
  which: number,
  positions: readonly number[],
  record: RecordView,
  defaults: readonly SqlValue[],
): number | undefined {
  if (positions.length !== 1) {
    const values = positions.map((position) => (position < record.count ? record.value(position) : defaults[position]))
    return identityKey(which, [...values.keys()], values)
  }
  const position = positions[0] as number
  if (position >= record.count) return identityKey(which, positions, defaults)
  return record.types[position] === 0 ? undefined : columnKey(which, storedKey(record, position))
}

// Of 32 bits.
const WORDS = 1 << 21

/**
 * A Bloom filter of 2^26 bits with three hash functions (B. Bloom, 1970): a set of fingerprints in 8 MB that never misses a
 * member and rarely gives a false positive.
 */
export class BloomFilter {
  readonly #bits = new Uint32Array(WORDS)

  add(key: number): void {
    for (let i = 0; i < 3; i++) {
      const bit = place(key, i)
      this.#bits[bit >>> 5] = (this.#bits[bit >>> 5] as number) | (1 << (bit & 31))
    }
  }

  has(key: number): boolean {
    for (let i = 0; i < 3; i++) {
      const bit = place(key, i)
      if ((((this.#bits[bit >>> 5] as number) >>> (bit & 31)) & 1) === 0) return false
    }
    return true
  }
}

function place(key: number, which: number): number {
  const upper = Math.floor(key / 2 ** 32) >>> 0
  return ((key >>> 0) + Math.imul(which, upper * 2 + 1)) >>> 6
}
