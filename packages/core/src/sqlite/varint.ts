import { FormatError } from '../io/errors.js'

/**
 * A SQLite varint read from `bytes` at `at` ("Database File Format", section 1.6): one to nine bytes, big-endian,
 * seven bits each, the ninth giving all eight. `size` counts its bytes. Values over 2^53 lose their low bits in
 * `value`: use `varint64` where they matter.
 */
export interface Varint {
  value: number
  size: number
}

/** Reads a varint into `out`, so that the inner loops allocate nothing. False: the bytes end before it does. */
export function readVarint(bytes: Uint8Array, at: number, end: number, out: Varint): boolean {
  let value = 0
  for (let i = 0; i < 8; i++) {
    if (at + i >= end) return false
    const byte = bytes[at + i] as number
    value = value * 128 + (byte & 0x7f)
    if (byte < 0x80) {
      out.value = value
      out.size = i + 1
      return true
    }
  }
  if (at + 8 >= end) return false
  // Beyond 2^53 the sum above has lost its low bits, so the whole is read again exactly.
  out.value = Number(wideVarint(bytes, at))
  out.size = 9
  return true
}

/**
 * Whether bytes are the last ones of one varint of `size` bytes, or all of it: each but the last says that more follow. A
 * ninth byte says nothing of the kind, since all its bits are the value's.
 */
export function endsVarint(bytes: Uint8Array, from: number, to: number, size: number): boolean {
  for (let at = from; at < to - 1; at++) if ((bytes[at] as number) < 0x80) return false
  return from >= to || size === MOST_BYTES || (bytes[to - 1] as number) < 0x80
}

const MOST_BYTES = 9

/** A varint as an exact signed 64-bit value: a number where one holds it, else a bigint. @throws FormatError */
export function varint64(bytes: Uint8Array, at: number, end = bytes.length): { value: number | bigint; size: number } {
  if (!readVarint(bytes, at, end, scratch))
    throw new FormatError('truncated', at, 'a variable-length integer runs past its place')
  // Seven bytes carry 49 bits, which a number holds exactly.
  return { value: scratch.size <= 7 ? scratch.value : exact(wideVarint(bytes, at)), size: scratch.size }
}

const scratch: Varint = { value: 0, size: 0 }

/** A varint whose bytes are known to be there, as a signed 64-bit value. */
function wideVarint(bytes: Uint8Array, at: number): bigint {
  let value = 0n
  for (let i = 0; i < 8; i++) {
    const byte = bytes[at + i] as number
    value = (value << 7n) | BigInt(byte & 0x7f)
    if (byte < 0x80) return value
  }
  return BigInt.asIntN(64, (value << 8n) | BigInt(bytes[at + 8] as number))
}

/** A number where it is exact, else the bigint itself. */
export const exact = (value: bigint): number | bigint =>
  value >= BigInt(Number.MIN_SAFE_INTEGER) && value <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(value) : value
