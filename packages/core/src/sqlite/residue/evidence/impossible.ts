import type { Column } from '../../ddl.js'
import type { TextEncoding } from '../../header.js'
import { isTooLong } from '../../record.js'
import { type Candidate, type Format, sizeOf } from './candidate.js'
import type { Range } from './profile.js'

// The longest whole number of a column for numbers that is stored as one, in six bytes.
const MOST_WHOLE = 2 ** 47 - 1

/** A whole number stored as a real one, where the column turns it into an integer ("Datatypes In SQLite", section 3). */
function isWholeReal(bytes: Uint8Array, at: number, affinity: Column['affinity'] | undefined): boolean {
  if (affinity !== 'real' && affinity !== 'integer' && affinity !== 'numeric') return false
  const value = new DataView(bytes.buffer, bytes.byteOffset + at, 8).getFloat64(0)
  return Number.isInteger(value) && Math.abs(value) <= MOST_WHOLE
}

/**
 * Where the first value begins that was not written as it stands: a number in more bytes than it needs, or a text with
 * control characters that no live one has. Other bytes were written over it. Undefined: there is none.
 */
export function firstImpossible(
  bytes: Uint8Array,
  { types, body, end, lostSize, fits }: Candidate,
  { encoding, bareConstants }: Format,
): number | undefined {
  const profile = fits[0]?.profile
  let at = body
  for (const [position, type] of types.entries()) {
    const size = sizeOf(type, lostSize)
    if (at + size > end) return undefined
    const isText = type >= 13 && type % 2 === 1
    if (isTooLong(bytes, at, type, bareConstants)) return at
    if (type === 7 && isWholeReal(bytes, at, profile?.affinities[position])) return at
    if (isText && hasStrangeControls(bytes, at, at + size, profile?.ranges[position], encoding)) return at
    at += size
  }
  return undefined
}

function hasStrangeControls(
  bytes: Uint8Array,
  from: number,
  to: number,
  range: Range | undefined,
  encoding: TextEncoding,
): boolean {
  const wide = encoding !== 'utf8'
  const low = encoding === 'utf16be' ? 1 : 0
  for (let at = from; at + (wide ? 1 : 0) < to; at += wide ? 2 : 1) {
    const byte = bytes[at + low] as number
    if (byte >= 0x20 || (byte >= 9 && byte <= 13) || (wide && bytes[at + 1 - low] !== 0)) continue
    const other = wide ? 0 : (range?.letters[256 + byte] ?? 0)
    if ((range?.letters[low * 256 + byte] ?? 0) + other === 0) return true
  }
  return false
}
