import { endsVarint, readVarint, type Varint } from '../../varint.js'
import { bodySize, type Candidate, LOST, LOST_TOO, readsStrangely, readTypes } from '../evidence/candidate.js'
import { likelyTypes } from '../evidence/lost-types.js'
import { CLASS, type Profile } from '../evidence/profile.js'
import { WEIGHTS } from '../evidence/weights.js'
import { countLegal, type Walked } from './legal-types.js'
import { isIndexCell, type Search } from './region.js'
import { complete, type Found, MOST_HEADER, varintSize } from './whole-cell.js'

const varint: Varint = { value: 0, size: 0 }
const walked: Walked = { end: 0 }

/**
 * Cells at `at` whose first four bytes were overwritten by a freeblock's header. How much of the record is lost with
 * them depends on the length of the payload size and of the rowid; each possibility is tried.
 */
export function overwrittenCells(
  search: Search,
  at: number,
  nextStart: (from: number) => number | undefined,
): Candidate[] {
  const { bytes, kind, format } = search
  const isIndex = isIndexCell(kind)
  const size = (((bytes[at + 2] as number) << 8) | (bytes[at + 3] as number)) >>> 0
  const blockEnd = at + size
  // The block's header stays behind when the block is taken up into another or into the gap.
  if (size < 4 || blockEnd > format.usableSize) return []
  const headed = search.beginsAtCell && at === search.start
  if (!headed && isText(bytes, at, at + 4 + LEAST_TYPES)) return []
  // What was freed as one block with this cell ends where a cell begins that is there still, or with the region.
  const atBoundary = blockEnd === search.end || nextStart(blockEnd) === blockEnd
  const known: Parts = { start: at, blockEnd, headed, atBoundary, nextStart }
  const found: Candidate[] = []
  for (let head = isIndex ? 1 : 4; head <= (isIndex ? 3 : 12); head++) {
    const candidate = headerIntact(search, known, head)
    if (candidate) found.push(candidate)
  }
  for (const profile of format.own) {
    if (profile.table.withoutRowid !== isIndex) continue
    const readings = headerCut(search, known, profile)
    if (readings.length === 0) continue
    // One that runs into a cell that is there is none to be taken for.
    const clear = readings.filter(({ body, end }) => (nextStart(body) ?? end) >= end)
    if (!isAmbiguous(clear, profile)) found.push(...(clear.length > 0 ? clear : readings))
  }
  return found
}

// Types of the shortest record that can be told at all.
const LEAST_TYPES = 2

/** Words: on large pages any four letters are offset and size of a block, and the next ones types. */
function isText(bytes: Uint8Array, from: number, to: number): boolean {
  for (let at = from; at < to; at++) if ((bytes[at] as number) < 0x20 || (bytes[at] as number) > 0x7e) return false
  return true
}

/**
 * Without live rows to learn from, the same bytes can be read with one type more lost or one less, which gives other
 * values: it is left out then.
 */
function isAmbiguous(readings: readonly Candidate[], { fitted }: Profile): boolean {
  const [best, ...others] = [...readings].sort((a, b) => b.bits - a.bits)
  return (
    !fitted && others.some((one) => one.types.length === best?.types.length && best.bits - one.bits < WEIGHTS.clear)
  )
}

interface Parts {
  start: number
  blockEnd: number
  /** A freeblock's own header stands here, or another cell ends: one that lost its head begins here for sure. */
  headed: boolean
  /** The block ends where its region does, or another cell begins. */
  atBoundary: boolean
  /** Where the next cell begins that was found already, not far behind an offset. */
  nextStart: (from: number) => number | undefined
}

/** The record's header lies whole behind the lost bytes: `head` bytes of payload size and rowid went before it. */
function headerIntact(search: Search, parts: Parts, head: number): Candidate | undefined {
  const { bytes, end, format } = search
  const { start, headed } = parts
  const record = start + head
  // The byte after a header's size is its first type.
  if (head < 4 || record + 2 > end || (bytes[record] as number) < 2) return undefined
  if (!readVarint(bytes, record, end, varint)) return undefined
  const headerSize = varint.value
  if (headerSize < 2 || headerSize > Math.min(format.mostHeader, MOST_HEADER) || record + headerSize > end)
    return undefined
  if (!fitsAny(search, record + varint.size, record + headerSize)) return undefined
  const types = readTypes(bytes, record + varint.size, record + headerSize, headerSize)
  if (!types) return undefined
  const payloadSize = headerSize + bodySize(types)
  const rowidSize = head - varintSize(payloadSize)
  if (rowidSize < 1 || rowidSize > 9 || !endsVarint(bytes, start + 4, record, rowidSize)) return undefined
  const found = { start, record, types, body: record + headerSize, payloadSize, rowid: null, lostSize: 0 }
  return endingWell(
    complete(search, found, format.telling),
    parts,
    headed ? WEIGHTS.headerIntactAtCell : WEIGHTS.headerIntact,
    bytes,
  )
}

/** Whether the types from `at` to `end` can be those of a row of any table that can be told by them. */
function fitsAny({ bytes, kind, format }: Search, at: number, end: number): boolean {
  const isIndex = isIndexCell(kind)
  for (const { table, legal, columns, leastColumns } of format.telling) {
    if (table.withoutRowid !== isIndex) continue
    const count = countLegal(bytes, at, end, legal, 0, columns, walked)
    if (count >= (kind === 'index' ? columns : leastColumns) && walked.end === end) return true
  }
  return false
}

/** Part of the record's header is lost too: its size, and perhaps the first types. The table says what they were. */
function headerCut(search: Search, parts: Parts, profile: Profile): Candidate[] {
  const { bytes, end, kind } = search
  const from = parts.start + 4
  // The count of columns went with the header's size: only what live rows show is tried.
  const least = profile.fitted ? profile.shortest : profile.leastColumns
  const ends: number[] = []
  const withEnds = { ...parts, ends }
  const found: Candidate[] = []
  for (let columns = profile.columns; columns >= least; columns--) {
    for (const lost of kind === 'without-rowid' ? LOSSES_WITHOUT_ROWID : LOSSES) {
      const count = columns - lost.types
      if (count < 1 || countLegal(bytes, from, end, profile.legal, lost.types, count, walked) < count) continue
      const rest = readCount(bytes, from, end, count)
      if (!rest) continue
      for (const candidate of cutRecord(search, withEnds, profile, lost, rest)) {
        // Without live rows to learn from, a reading with one type more lost may end there as well.
        if (!profile.fitted) ends.push(candidate.end)
        found.push(candidate)
      }
    }
  }
  return found
}

/** How many types of a header are lost with its size, and how many bytes they took. */
interface Loss {
  types: number
  bytes: number
}

const LOSSES: readonly Loss[] = [
  { types: 0, bytes: 0 },
  { types: 1, bytes: 1 },
]
// Without a rowid in between, the four bytes reach further into the header.
const LOSSES_WITHOUT_ROWID: readonly Loss[] = [...LOSSES, { types: 1, bytes: 2 }, { types: 2, bytes: 2 }]

// The longest value whose type takes one byte.
const SHORT_VALUE = 57

function* cutRecord(
  search: Search,
  parts: Parts & { ends: readonly number[] },
  profile: Profile,
  lost: Loss,
  rest: { types: number[]; end: number },
): Generator<Candidate> {
  const { bytes, kind, format } = search
  const { start, blockEnd, headed, nextStart } = parts
  const known = bodySize(rest.types)
  const only = [profile]
  const headerSize = 1 + lost.bytes + (rest.end - (start + 4))
  // One byte of header size, so more than 127 bytes of header are another case, which lost less.
  if (headerSize > 127) return
  const head = 4 - 1 - lost.bytes
  const firstIsRowid = lost.types === 1 && profile.alias === 0
  const open = firstIsRowid ? 0 : lost.types
  const types = [...(firstIsRowid ? [0] : [LOST, LOST_TOO].slice(0, open)), ...rest.types]
  // Where types are lost, the size of their values follows from where the cell ends: with its block, or at another cell.
  const least = rest.end + known
  const ends =
    open === 0
      ? [least]
      : [blockEnd, nextStart(least) ?? blockEnd, search.end, blockBefore(search, least, parts), ...parts.ends]
  const lostSizes = new Set(ends.map((end) => end - rest.end - known))
  for (const lostSize of lostSizes) {
    if (lostSize < 0 || (open === 1 && lostSize > SHORT_VALUE !== lost.bytes > 1)) continue
    if (open === 2 && lostSize > 2 * SHORT_VALUE) continue
    if (open === 1 && holdsNumbers(profile, 0) && !NUMBER_SIZES.has(lostSize)) continue
    const payloadSize = headerSize + lostSize + known
    const rowidSize = head - varintSize(payloadSize)
    if (isIndexCell(kind) ? rowidSize !== 0 : rowidSize < 1 || rowidSize > 9) continue
    const record = start + head
    const found: Found = { start, record, types, body: rest.end, payloadSize, rowid: null, lostSize }
    const bits = (open > 0 ? WEIGHTS.typesLost : WEIGHTS.headerCut) + (headed ? WEIGHTS.atCell : 0)
    const read = (what: Found) => endingWell(complete(search, what, only), parts, bits, bytes)
    const fitted = read(found)
    if (!fitted || fitted.cut) continue
    // A block that lost its tail gives lost values a size that is too small: the next ones begin in the midst of them.
    if (open > 0 && readsStrangely(bytes, rest.end + lostSize, rest.types, profile.ranges.slice(open), format)) continue
    fitted.typesLost = open
    // The lost types that it must have had, as far as that can be told: they speak for it like all others.
    const first = open > 0 ? likelyTypes(bytes, rest.end, lostSize, open, profile, format.encoding) : undefined
    const typed = first && read({ ...found, types: [...first.types, ...rest.types], lostSize: 0 })
    yield typed ? { ...typed, typesLost: open, chance: first.chance } : fitted
  }
}

const NUMBER_SIZES = new Set([0, 1, 2, 3, 4, 6, 8])

/** A column that holds no texts: by its live rows, or as it is declared. */
function holdsNumbers({ fitted, usual, affinities }: Profile, position: number): boolean {
  if (fitted) return ((usual[position] as number) & (CLASS.text | CLASS.blob)) === 0
  return affinities[position] === 'integer' || affinities[position] === 'real'
}

/** Exactly so many types from `at` on, and where they end; undefined where they leave the bytes or cannot be. */
export function readCount(
  bytes: Uint8Array,
  at: number,
  end: number,
  count: number,
): { types: number[]; end: number } | undefined {
  const types: number[] = []
  let cursor = at
  while (types.length < count) {
    if (!readVarint(bytes, cursor, end, varint) || varint.value < 0 || varint.value === 10 || varint.value === 11)
      return undefined
    types.push(varint.value)
    cursor += varint.size
  }
  return { types, end: cursor }
}

/** The freed block's size counts the cell exactly, or the cell and others behind it. */
function endingWell(
  candidate: Candidate | undefined,
  { blockEnd, atBoundary }: Parts,
  bits: number,
  bytes: Uint8Array,
): Candidate | undefined {
  if (!candidate) return undefined
  const beyond = blockEnd - candidate.end
  // A block of this size was freed here: a cell cannot be longer than its block, unless the block was cut since.
  if (beyond < 0 && !candidate.cut) return undefined
  candidate.startOverwritten = true
  const bounded = atBoundary || endsBlock(bytes, candidate.end, blockEnd)
  candidate.bits +=
    bits + (beyond >= 0 && beyond <= 3 ? WEIGHTS.fillsBlock : beyond > 3 && bounded ? WEIGHTS.endsInBlock : 0)
  return candidate
}

/** Where, not far behind an offset, a block lay that was freed before this one and ends with it. */
function blockBefore({ bytes, end }: Search, from: number, { blockEnd }: Parts): number {
  const to = Math.min(from + 2 * SHORT_VALUE, end - 4)
  for (let at = from; at <= to; at++) if (endsBlock(bytes, at, blockEnd)) return at
  return blockEnd
}

/** Cells that are freed one by one, each before the last, leave blocks that all have the same end. */
function endsBlock(bytes: Uint8Array, at: number, blockEnd: number): boolean {
  return at + 4 <= blockEnd && at + (((bytes[at + 2] as number) << 8) | (bytes[at + 3] as number)) === blockEnd
}
