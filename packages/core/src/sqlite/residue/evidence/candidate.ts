import { localPayload } from '../../btree.js'
import type { DatabaseHeader, TextEncoding } from '../../header.js'
import { decodeValue, isCleanText, isTooLong, serialSize } from '../../record.js'
import { readVarint, type Varint } from '../../varint.js'
import { CLASS, classOf, type Profile, type Range, weighLength, weighNumber } from './profile.js'
import { WEIGHTS } from './weights.js'

/**
 * A record found in leftover bytes: where its parts lie in its page, and how sure it is. Offsets are within the page.
 */
export interface Candidate {
  /** The cell's first byte, of which the first four may be overwritten. */
  start: number
  /** Behind the cell's last byte on this page; of a cut cell: where it is cut. */
  end: number
  /** Serial types in stored order; `LOST` for one that was overwritten and that nothing else gives. */
  types: number[]
  /** Where the first value begins. */
  body: number
  /** Bytes of the whole record, with what lies on overflow pages. */
  payloadSize: number
  /** Bytes of the record on this page. */
  local: number
  /** First overflow page; 0: none. */
  overflow: number
  /** A cell of an index b-tree: a row without rowid, or an entry of an index. */
  ofIndex: boolean
  /** Null: overwritten, or a cell of an index b-tree. */
  rowid: number | bigint | null
  /** Bytes of a first value whose type is `LOST`; follows from where the cell ends. */
  lostSize: number
  /** Part of its last values was overwritten. */
  cut: boolean
  /** Profiles that it fits, best first, with their bits. */
  fits: { profile: Profile; bits: number }[]
  /** Its first bytes were overwritten, and so many types with them. */
  startOverwritten: boolean
  typesLost: number
  /** The probability that its types are these and no others that its bytes can be read with; 1 where they are there. */
  chance: number
  /** Evidence in bits: how unlikely bytes that mean something else would look like this. */
  bits: number
  /** Its cell pointer, payload size and header agree: as sure as a live row. */
  intact: boolean
}

/** In the place of a serial type that was overwritten. */
export const LOST = -1
/** A second one: where the first of their values ends is not known. Such a cell only marks its place. */
export const LOST_TOO = -2

/** Bytes that a value of this serial type takes. */
export const sizeOf = (type: number, lostSize: number): number =>
  type >= 0 ? serialSize(type) : type === LOST ? lostSize : 0

/** What of a database the search for cells needs to know. */
export interface Format {
  usableSize: number
  encoding: TextEncoding
  bareConstants: boolean
  pageCount: number
  profiles: readonly Profile[]
  /** The profiles that can recognise a cell whose start was overwritten: those that do not accept any value. */
  telling: readonly Profile[]
  /** The profiles that can recognise a record which lost part of its header as well. */
  own: readonly Profile[]
  /** No record of these tables has a longer header. */
  mostHeader: number
}

/** What is needed to look for the records of these tables. */
export function formatFor(header: DatabaseHeader, pageCount: number, profiles: readonly Profile[]): Format {
  const { usableSize, encoding, bareConstants } = header
  // The two columns of sqlite_sequence hold anything, so that almost any bytes would fit.
  const telling = profiles.filter((profile) => profile.table.name !== 'sqlite_sequence')
  const own = profiles.filter((profile) => profiles.length === 1 || !profile.table.name.startsWith('sqlite_'))
  // A type takes four bytes at most while values stay below 128 MiB.
  const mostHeader = 3 + 4 * Math.max(1, ...profiles.map((profile) => profile.columns))
  return { usableSize, encoding, bareConstants, pageCount, profiles, telling, own, mostHeader }
}

/** The format with each of its lists of profiles changed. */
export function withProfiles(format: Format, change: (profiles: readonly Profile[]) => Profile[]): Format {
  const { profiles, telling, own } = format
  return { ...format, profiles: change(profiles), telling: change(telling), own: change(own) }
}

const varint: Varint = { value: 0, size: 0 }

/** Serial types from `at` up to `end`; undefined where they do not end exactly there or one cannot be. */
export function readTypes(bytes: Uint8Array, at: number, end: number, most: number): number[] | undefined {
  const types: number[] = []
  let cursor = at
  while (cursor < end) {
    if (types.length >= most || !readVarint(bytes, cursor, end, varint)) return undefined
    if (varint.value === 10 || varint.value === 11 || varint.value < 0) return undefined
    types.push(varint.value)
    cursor += varint.size
  }
  return types
}

/** Bytes of all values together; types that were lost count as nothing. */
export function bodySize(types: readonly number[]): number {
  let sum = 0
  for (const type of types) if (type >= 0) sum += serialSize(type)
  return sum
}

/**
 * Bits of evidence that types belong to a table; undefined: they cannot. A class that live rows never show there costs,
 * and a column that could hold anything proves nothing.
 */
export function fitTypes(profile: Profile, types: readonly number[]): number | undefined {
  if (types.length > profile.columns || types.length < profile.leastColumns) return undefined
  // A short record was written before columns were added; where no live one is as short, that is unlikely.
  let bits =
    types.length === profile.columns
      ? WEIGHTS.allColumns
      : WEIGHTS.columnMissing * Math.max(0, profile.shortest - types.length)
  let nulls = 0
  for (let position = 0; position < types.length; position++) {
    const type = types[position] as number
    if (type < 0) continue
    const kind = classOf(type)
    if (((profile.legal[position] as number) & kind) === 0) return undefined
    if (kind === CLASS.null && ++nulls > MOST_NULLS) continue
    bits += (profile.usual[position] as number) & kind ? (BITS_OF_CLASS[kind] as number) : WEIGHTS.unusualClass
    if (!profile.fitted) bits += undeclaredBits(profile.affinities[position], kind)
  }
  return bits
}

/** What speaks against words in a column declared for numbers, where no live rows say what is usual. */
function undeclaredBits(affinity: Profile['affinities'][number] | undefined, kind: number): number {
  if (affinity !== 'integer' && affinity !== 'real') return 0
  return kind === CLASS.text || kind === CLASS.blob ? WEIGHTS.undeclaredText : 0
}

// How rarely a byte that means something else reads as this class.
const BITS_OF_CLASS: Record<number, number> = {
  [CLASS.null]: 0.5,
  [CLASS.integer]: 3,
  [CLASS.real]: 4,
  [CLASS.text]: 1,
  [CLASS.blob]: 0.5,
}

// Zeros come in long runs: more of them say no more.
const MOST_NULLS = 8

const MOST_TEXT_BYTES = 256

/**
 * Bits for and against from the values themselves, by what the table's live rows hold: a text that is none speaks
 * against a record, a number far from all others as well. Only what lies on the page before `end` is looked at.
 */
export function weighValues(
  bytes: Uint8Array,
  body: number,
  end: number,
  types: readonly number[],
  lostSize: number,
  profile: Profile,
  format: Format,
): number {
  let bits = 0
  let at = body
  for (let position = 0; position < types.length && at < end; position++) {
    const type = types[position] as number
    const range = profile.ranges[position] as Range
    if (type > 0) bits += weighValue(bytes, at, end, type, range, format)
    at += sizeOf(type, lostSize)
  }
  return bits
}

/** The same for one value that is not NULL. */
export function weighValue(
  bytes: Uint8Array,
  at: number,
  end: number,
  type: number,
  range: Range,
  { encoding, bareConstants }: Format,
): number {
  const size = serialSize(type)
  if (type >= 12) {
    const isText = type % 2 === 1 && size > 0 && at + size <= end
    return weighLength(range, size) + (isText ? weighText(bytes, at, size, range, encoding) : 0)
  }
  if (at + size > end) return 0
  if (isTooLong(bytes, at, type, bareConstants)) return WEIGHTS.tooLong
  const value = Number(decodeValue(bytes, at, type, size, encoding))
  return weighNumber(range, value) + (type === 7 ? weighReal(value) : 0)
}

// Text is everywhere in these files, so reading as text says little for a record; not doing so says all against it.
function weighText(bytes: Uint8Array, at: number, size: number, { letters }: Range, encoding: TextEncoding): number {
  if (!isCleanText(bytes, at, size, encoding)) return WEIGHTS.noText
  const looked = Math.min(size, MOST_TEXT_BYTES)
  const wide = encoding === 'utf8' ? 1 : 2
  let strange = 0
  for (let i = 0; i < looked; i += wide) {
    const low = bytes[encoding === 'utf16be' ? at + i + 1 : at + i] as number
    const high = wide === 2 ? (bytes[encoding === 'utf16be' ? at + i : at + i + 1] as number) : 0
    if (high === 0 && (low < 9 || (low > 13 && low < 32) || low === 127)) return WEIGHTS.strangeText
    if (isStrange(letters, bytes, at + i, wide)) strange++
  }
  return strange > (strangeShare(letters[512] as number, wide) * looked) / wide
    ? WEIGHTS.strangeText
    : Math.min(4, looked / wide / 4)
}

/** Where so many letters are known, a larger part of others is not to be expected in a text. */
function strangeShare(known: number, wide: number): number {
  if (known < SOME_LETTERS) return 1
  if (known < ENOUGH_LETTERS) return 0.5
  return wide === 1 ? STRANGE_SHARE : STRANGE_SHARE / STRANGE_WIDE
}

const SOME_LETTERS = 60
const ENOUGH_LETTERS = 200
const STRANGE_SHARE = 0.3
// Of two bytes read one too early or too late, hardly any letter is one that occurs.
const STRANGE_WIDE = 4

/** No live text of the column has it. */
function isStrange(letters: Uint32Array, bytes: Uint8Array, at: number, wide: number): boolean {
  const first = bytes[at] as number
  if (wide === 1) return letters[first] === 0 && letters[256 + first] === 0
  return letters[first] === 0 || letters[256 + (bytes[at + 1] as number)] === 0
}

/**
 * Whether a text among these values begins or ends with a letter of two bytes that no live one has: so they do where
 * they are read a bit too early or too late.
 */
export function readsStrangely(
  bytes: Uint8Array,
  body: number,
  types: readonly number[],
  ranges: readonly Range[],
  { encoding }: Format,
): boolean {
  if (encoding === 'utf8') return false
  let at = body
  return types.some((type, position) => {
    const start = at
    at += serialSize(type)
    const letters = ranges[position]?.letters
    if (type < 15 || type % 2 === 0 || !letters || (letters[512] as number) < ENOUGH_LETTERS || at > bytes.length)
      return false
    return isStrange(letters, bytes, start, 2) || isStrange(letters, bytes, at - 2, 2)
  })
}

// Dates, durations, places: numbers of everyday size. A random pattern is mostly far beyond.
function weighReal(value: number): number {
  const size = Math.abs(value)
  if (size === 0) return 0
  return Number.isFinite(size) && size > 1e-9 && size < 1e15 ? 3 : -10
}

/** Where a record of this size ends on its page, and its overflow page; undefined: it cannot lie here. */
export function placeOf(
  bytes: Uint8Array,
  recordStart: number,
  payloadSize: number,
  table: boolean,
  limit: number,
  format: Format,
) {
  const local = localPayload(payloadSize, format.usableSize, table)
  const end = recordStart + local + (local < payloadSize ? 4 : 0)
  if (local === payloadSize || end > limit) return { local, end, overflow: 0 }
  const overflow = new DataView(bytes.buffer, bytes.byteOffset + recordStart + local, 4).getUint32(0)
  return overflow > 1 && overflow <= format.pageCount ? { local, end, overflow } : undefined
}
