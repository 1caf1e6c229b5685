import type { Column } from '../../ddl.js'
import type { TextEncoding } from '../../header.js'
import { decodeValue, isCleanText, serialSize } from '../../record.js'
import { classOf, countsUp, isLateTime, kindOf, type Profile, type Range } from './profile.js'

/*
 * How likely it is that a column holds certain bytes as a value of a certain type, as the logarithm (base 2) of the
 * probability: what live rows hold there says how often each type occurs, between what its numbers lie, how long its
 * texts are and of which letters. Readings of the same bytes can so be weighed against each other.
 */

// A class that the column's declaration does not ask for, where no live row says what is usual.
const UNDECLARED_BITS = -7
// Whole numbers are stored as short as they can be; 0 and 1 take no bytes at all.
const TOO_LONG_BITS = -12
// What no live row has there occurs as often as in so many rows more.
const UNSEEN = 0.3

/** Undefined: the value cannot be there at all. */
export function likelihood(
  profile: Profile,
  position: number,
  bytes: Uint8Array,
  at: number,
  type: number,
  encoding: TextEncoding,
): number | undefined {
  if (((profile.legal[position] as number) & classOf(type)) === 0) return undefined
  const range = profile.ranges[position] as Range
  const kind = isFitted(profile, range)
    ? Math.log2(((range.kinds[kindOf(type)] as number) + UNSEEN) / countOf(range.kinds))
    : declaredBits(profile, position, type)
  const size = serialSize(type)
  if (type >= 12) {
    if (type % 2 === 0) return kind + lengthBits(range, size) - 8 * size
    if (!isCleanText(bytes, at, size, encoding)) return undefined
    return kind + lengthBits(range, size) + letterBits(range, bytes, at, size, encoding)
  }
  if (size === 0) return kind
  const value = decodeValue(bytes, at, type, size, encoding) as number | bigint
  return (
    kind + (type === 7 ? realBits(range, Number(value)) : wholeBits(range, Number(value), size) + longBits(value, size))
  )
}

/** Live rows hold it there; without any, the column is declared for it. */
export function isExpected(profile: Profile, position: number, type: number): boolean {
  const range = profile.ranges[position] as Range
  if (isFitted(profile, range)) return (range.kinds[kindOf(type)] as number) > 0
  return declaredBits(profile, position, type) === 0
}

const countOf = (kinds: Uint32Array) => kinds.reduce((sum, one) => sum + one, 0)

const isFitted = ({ fitted }: Profile, { kinds }: Range) => fitted && countOf(kinds) > 0

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

/** All lengths that occur are as likely; the further beyond, the less. */
function lengthBits({ texts, shortest, longest }: Range, size: number): number {
  if (texts === 0) return size === 0 ? 0 : -6
  const span = longest - shortest + 1
  const beyond = Math.max(shortest - size, size - longest, 0)
  return -Math.log2(span) - Math.min(16, (6 * beyond) / (span + 2))
}

// What is known of letters before any was seen counts like so many of them.
const PRIOR_LETTERS = 8

function letterBits({ letters }: Range, bytes: Uint8Array, at: number, size: number, encoding: TextEncoding): number {
  const wide = encoding !== 'utf8'
  const high = encoding === 'utf16le' ? 1 : encoding === 'utf16be' ? 0 : -1
  let bits = 0
  for (let i = 0; i < size; i++) {
    const byte = bytes[at + i] as number
    const half = i & 1
    const seen = (offset: number) =>
      wide ? (letters[half * 256 + offset] as number) : (letters[offset] as number) + (letters[256 + offset] as number)
    const total = wide ? (letters[512 + half] as number) : (letters[512] as number) + (letters[513] as number)
    const prior = half === high ? priorOfHigh(byte) : priorOf(byte)
    bits += Math.log2((seen(byte) + PRIOR_LETTERS * prior) / (total + PRIOR_LETTERS))
  }
  return bits
}

/** How often a byte occurs in any text, roughly. */
function priorOf(byte: number): number {
  if (byte >= 0x80) return 1 / 512
  if ((byte < 0x20 && byte !== 9 && byte !== 10) || byte === 0x7f) return 1e-6
  const frequent = (byte >= 0x61 && byte <= 0x7a) || (byte >= 0x30 && byte <= 0x39) || byte === 0x20
  return frequent ? 1 / 64 : 1 / 256
}

const priorOfHigh = (byte: number) => (byte === 0 ? 0.9 : 1 / 2560)

function wholeBits(range: Range, value: number, size: number): number {
  const { numbers, low, high } = range
  if (numbers === 0) return -8 * size + (isLateTime(value) ? 8 : 0)
  const span = Math.min(high - low + 2, 2 ** (8 * size))
  const beyond = Math.max(low - value, value - high, 0)
  // Where numbers count up, the next one may well be beyond all others; else it is so on either side once in as many
  // times as there are numbers (rule of succession), and then mostly by little.
  const beside = countsUp(range) ? 1 / 4 : 1 / (numbers + 2)
  if (beyond === 0) return Math.log2((1 - 2 * beside) / span)
  const scale = countsUp(range) ? high - low + 2 : (high - low + 2) / numbers
  return Math.log2(beside * scale) - 2 * Math.log2(scale + beyond)
}

// The digits of a real number are as good as random; of its size something is known.
const DIGITS_BITS = -52

function realBits({ numbers, low, high }: Range, value: number): number {
  const size = Math.abs(value)
  if (!Number.isFinite(value) || (size !== 0 && (size < 1e-9 || size > 1e15))) return DIGITS_BITS - 18
  return DIGITS_BITS - (numbers > 0 && value >= low && value <= high ? 1 : 6)
}

function longBits(value: number | bigint, size: number): number {
  const shorter = size === 8 ? 48 : size === 6 ? 32 : 8 * (size - 1)
  const whole = BigInt(value)
  const fits = size === 1 ? whole === 0n || whole === 1n : BigInt.asIntN(shorter, whole) === whole
  return fits ? TOO_LONG_BITS : 0
}
