import type { Column } from '../ddl.js'
import type { TextEncoding } from '../header.js'
import { decodeValue, serialSize } from '../record.js'
import { weighValue } from './candidate.js'
import { classOf, kindOf, type Profile, type Range } from './profile.js'

// By so many bits a reading must be likelier than all others together to be told as a value: 64 to 1.
const SURE_BITS = 6
// A class that the column's declaration does not ask for, where no live row says what is usual.
const UNDECLARED_BITS = -7
// Whole numbers are stored as short as they can be; 0 and 1 take no bytes at all.
const TOO_LONG_BITS = -12

/** Types that a value of this size can have, by its bytes alone. */
const TYPES_OF_SIZE: Record<number, readonly number[]> = {
  0: [0, 8, 9],
  1: [1],
  2: [2],
  3: [3],
  4: [4],
  6: [5],
  8: [6, 7],
}

/**
 * The serial types of a record's first values, one or two, which were overwritten; the values themselves, `size` bytes
 * from `at`, are there. Undefined where more than one reading is likely: no value is told then.
 */
export function likelyTypes(
  bytes: Uint8Array,
  at: number,
  size: number,
  count: number,
  profile: Profile,
  encoding: TextEncoding,
): number[] | undefined {
  const readings: { types: number[]; bits: number }[] = []
  for (const type of count === 1 ? typesOf(size) : typesUpTo(size)) {
    const first = bitsFor(profile, 0, bytes, at, type, encoding)
    if (first === undefined) continue
    if (count === 1) readings.push({ types: [type], bits: first })
    else
      for (const next of typesOf(size - serialSize(type))) {
        const second = bitsFor(profile, 1, bytes, at + serialSize(type), next, encoding)
        if (second !== undefined) readings.push({ types: [type, next], bits: first + second })
      }
  }
  const [best, ...others] = readings.sort((a, b) => b.bits - a.bits)
  const rest = others.reduce((sum, { bits }) => sum + 2 ** bits, 0)
  // What no live row has there, and no declaration asks for, is told for nobody's want of a better reading.
  if (!best?.types.every((type, position) => isExpected(profile, position, type))) return undefined
  return best.bits - Math.log2(rest) >= SURE_BITS ? best.types : undefined
}

function isExpected(profile: Profile, position: number, type: number): boolean {
  const { kinds } = profile.ranges[position] as Range
  return isTaught(profile, kinds) ? (kinds[kindOf(type)] as number) > 0 : declaredBits(profile, position, type) === 0
}

const typesOf = (size: number): number[] => [...(TYPES_OF_SIZE[size] ?? []), 12 + 2 * size, 13 + 2 * size]

function typesUpTo(size: number): number[] {
  const types: number[] = []
  for (let part = 0; part <= size; part++) types.push(...typesOf(part))
  return types
}

/** How likely a value is where it stands, in bits; undefined: it cannot be. */
function bitsFor(
  profile: Profile,
  position: number,
  bytes: Uint8Array,
  at: number,
  type: number,
  encoding: TextEncoding,
): number | undefined {
  const kind = classOf(type)
  if (((profile.legal[position] as number) & kind) === 0) return undefined
  const range = profile.ranges[position] as Range
  const bits = isTaught(profile, range.kinds)
    ? Math.log2(((range.kinds[kindOf(type)] as number) + 0.3) / countOf(range.kinds)) - spread(range, type)
    : declaredBits(profile, position, type)
  if (type === 0) return bits
  return bits + weighValue(bytes, at, bytes.length, type, range, encoding) + lengthBits(bytes, at, type)
}

const countOf = (kinds: Uint32Array) => kinds.reduce((sum, one) => sum + one, 0)

const isTaught = ({ learned }: Profile, kinds: Uint32Array) => learned && countOf(kinds) > 0

/** A certain length out of many is the less likely. */
function spread({ shortest, longest, texts }: Range, type: number): number {
  return type < 12 || texts === 0 ? 0 : Math.log2(longest - shortest + 1)
}

const DECLARED: Record<Column['affinity'], (type: number) => boolean> = {
  integer: (type) => type > 0 && type < 12 && type !== 7,
  numeric: (type) => type > 0 && type < 12,
  real: (type) => type > 0 && type < 12,
  text: (type) => type > 12 && type % 2 === 1,
  blob: (type) => type >= 12,
}

function declaredBits({ affinities }: Profile, position: number, type: number): number {
  return type === 0 || DECLARED[affinities[position] as Column['affinity']](type) ? 0 : UNDECLARED_BITS
}

function lengthBits(bytes: Uint8Array, at: number, type: number): number {
  if (type === 0 || type > 6) return 0
  const size = serialSize(type)
  const value = BigInt(decodeValue(bytes, at, type, size, 'utf8') as number | bigint)
  const shorter = size === 8 ? 48 : size === 6 ? 32 : 8 * (size - 1)
  const fits = size === 1 ? value === 0n || value === 1n : BigInt.asIntN(shorter, value) === value
  return fits ? TOO_LONG_BITS : 0
}
