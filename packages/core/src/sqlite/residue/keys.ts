import type { SqlValue } from '../values.js'

const SPREAD = 0x01000193

/** A 53-bit fingerprint of values, for telling equal rows without keeping them. */
export class Fingerprint {
  #low = 0x811c9dc5
  #high = 0x2545f491

  add(value: SqlValue | undefined): this {
    if (typeof value === 'string') return this.#text(value)
    if (value instanceof Uint8Array) return this.#bytes(value)
    return this.#text(value === undefined ? 'u' : value === null ? 'n' : `${value}`)
  }

  get value(): number {
    return (this.#high & 0x1fffff) * 2 ** 32 + (this.#low >>> 0)
  }

  #mix(part: number): void {
    this.#low = Math.imul(this.#low ^ part, SPREAD)
    this.#high = Math.imul(this.#high ^ (part + 0x9e37), 0x85ebca6b) ^ (this.#low >>> 15)
  }

  #text(text: string): this {
    this.#mix(text.length + 0x10000)
    for (let i = 0; i < text.length; i++) this.#mix(text.charCodeAt(i))
    return this
  }

  #bytes(bytes: Uint8Array): this {
    this.#mix(bytes.length + 0x20000)
    for (let i = 0; i < bytes.length; i++) this.#mix(bytes[i] as number)
    return this
  }
}

/** Fingerprint of a whole row of a table. */
export function rowKey(
  table: string,
  values: readonly (SqlValue | undefined)[],
  rowid?: number | bigint | null,
): number {
  const print = new Fingerprint().add(table)
  if (rowid !== undefined) print.add(rowid)
  for (const value of values) print.add(value)
  return print.value
}

/** True for values that few rows share: what tells one row from another. */
export function isDistinctive(value: SqlValue | undefined): boolean {
  if (typeof value === 'string') return value.length >= 3
  if (value instanceof Uint8Array) return value.length >= 4
  if (typeof value === 'bigint') return true
  return typeof value === 'number' && (!Number.isInteger(value) || Math.abs(value) > 255)
}

/** Fingerprints of a row's distinctive values, each with its position. */
export function columnKeys(values: readonly (SqlValue | undefined)[]): number[] {
  const keys: number[] = []
  for (const [position, value] of values.entries())
    if (isDistinctive(value)) keys.push(new Fingerprint().add(position).add(value).value)
  return keys
}

const WORDS = 1 << 21

/** A set of fingerprints of bounded size that may rarely take a stranger for a member, and never misses one. */
export class KeySet {
  readonly #bits = new Uint32Array(WORDS)

  add(key: number): void {
    for (const bit of this.#places(key)) this.#bits[bit >>> 5] = (this.#bits[bit >>> 5] as number) | (1 << (bit & 31))
  }

  has(key: number): boolean {
    return this.#places(key).every((bit) => ((this.#bits[bit >>> 5] as number) >>> (bit & 31)) & 1)
  }

  #places(key: number): number[] {
    const low = key >>> 0
    const high = Math.floor(key / 2 ** 32) >>> 0
    return [0, 1, 2].map((i) => (low + Math.imul(i, high * 2 + 1)) >>> 6)
  }
}
