import { readVarint, type Varint } from '../../varint.js'
import { bodySize, type Candidate, type Format, fitTypes, sizeOf } from '../evidence/candidate.js'
import { firstImpossible } from '../evidence/impossible.js'
import type { Profile } from '../evidence/profile.js'
import { WEIGHTS } from '../evidence/weights.js'
import { overwrittenCells, readCount } from './overwritten-cells.js'
import { likelyStarts, mayBeCell, mayBeFreed } from './quick.js'
import { isIndexCell, type Search } from './region.js'
import { wholeCell } from './whole-cell.js'

const varint: Varint = { value: 0, size: 0 }

// A first value whose type was lost is not looked for beyond this.
const NEXT_WITHIN = 256
// Free bytes between cells that are too few for a cell.
const FRAGMENT = 3

// Made once: a region is part of a page, and there are as many regions as holes in pages.
const STARTS = new Uint16Array(65536)
const BEST = new Float64Array(65536 + 1)
const CHOSEN = new Array<Candidate | undefined>(65536 + 1).fill(undefined)
const NEXT = new Int32Array(65536 + 1)

/**
 * The cells of a region: every offset is tried, and of candidates that overlap the set with the most evidence wins, so that
 * no byte is claimed twice. Weighted interval scheduling by dynamic programming (Kleinberg and Tardos, Algorithm Design,
 * section 6.1), from the region's end to its start, since a cell's end says more than its start.
 */
export function cellsOf(search: Search): Candidate[] {
  const length = search.end - search.start
  const starts = length < 4 ? 0 : likelyStarts(search, STARTS)
  if (starts === 0) return []
  // By offset from the region's start: the most bits that can be had from there on, and the cell chosen there.
  const best = BEST.subarray(0, length + 1)
  const chosen = CHOSEN
  // And the first offset from there on where one was chosen.
  const next = NEXT
  let filled = length
  best[length] = 0
  next[length] = length
  chosen.fill(undefined, 0, length + 1)
  const nextStart = (from: number): number | undefined => {
    const start = from - search.start
    const offset = start < length ? (next[start] as number) : length
    return offset < Math.min(start + NEXT_WITHIN, length) ? search.start + offset : undefined
  }
  for (let i = starts - 1; i >= 0; i--) {
    const at = STARTS[i] as number
    const offset = at - search.start
    best.fill(best[filled] as number, offset, filled)
    next.fill(chosen[filled] ? filled : (next[filled] as number), offset, filled + 1)
    filled = offset
    for (const found of candidatesAt(search, at, nextStart)) {
      const candidate = withoutOverwritten(search, found, chosen, best)
      if (!candidate) continue
      const bits = candidate.bits + (endsAtCell(search, candidate, chosen, best) ? WEIGHTS.adjacent : 0)
      if (bits < leastBits(search, candidate)) continue
      const total = bits + (best[candidate.end - search.start] as number)
      if (total <= (best[offset] as number)) continue
      best[offset] = total
      chosen[offset] = candidate
    }
  }
  best.fill(best[filled] as number, 0, filled)
  return pick(search, best, chosen)
}

/**
 * The head of another cell of the same table among the values: a later cell began there. It may be overwritten itself
 * and no candidate any more, but the values of this one are lost from there on.
 */
function cellInside(
  bytes: Uint8Array,
  { body, end, cut, fits }: Candidate,
  { usableSize, pageCount }: Format,
): number | undefined {
  const profile = fits[0]?.profile
  if (!profile) return undefined
  if (profile.table.withoutRowid) return indexCellInside(bytes, { body, end, cut }, profile, pageCount)
  // Its last types may be overwritten too.
  const columns = Math.ceil(profile.columns * 0.75)
  for (let at = body; at < end; at++) {
    const record = skipVarint(bytes, skipVarint(bytes, at))
    // The last bytes, read together with those behind, are the next cell's head.
    if (record >= end) break
    const header = bytes[record] as number
    if (header <= profile.columns || header > profile.columns * 2 + 3 || header >= 0x80 || record + header > usableSize)
      continue
    if (profile.alias === 0 && bytes[record + 1] !== 0) continue
    if (headBits(bytes, record + 1, columns, profile) >= WEIGHTS.cellInside) return at
  }
  return undefined
}

/** The same of a table without rowids: a head whose payload size is just that of its header and values. */
function indexCellInside(
  bytes: Uint8Array,
  { body, end, cut }: Pick<Candidate, 'body' | 'end' | 'cut'>,
  profile: Profile,
  pageCount: number,
): number | undefined {
  for (let at = body; at < end; at++) {
    const record = skipVarint(bytes, at)
    if (record >= end) break
    const header = bytes[record] as number
    if (header <= profile.columns || header > profile.columns * 2 + 3 || record + header > bytes.length) continue
    if (!readVarint(bytes, at, record, varint)) continue
    const payload = varint.value
    // One that is cut where this cell is cannot be held against its payload size: the page's number tells it.
    if (cut && record + header > end && isPageNumber(bytes, at - 4, pageCount)) return Math.max(body, at - 4)
    const head = readCount(bytes, record + 1, record + header, profile.columns)
    if (!head || head.end !== record + header || payload !== header + bodySize(head.types)) continue
    if ((fitTypes(profile, head.types) ?? 0) <= 0) continue
    return startOfIndexCell(bytes, at, body, pageCount)
  }
  return undefined
}

/** On an interior page the number of another one stands before a cell's payload size. */
const startOfIndexCell = (bytes: Uint8Array, at: number, body: number, pageCount: number): number =>
  isPageNumber(bytes, at - 4, pageCount) ? Math.max(body, at - 4) : at

function isPageNumber(bytes: Uint8Array, at: number, pageCount: number): boolean {
  const number = new DataView(bytes.buffer, bytes.byteOffset + at, 4).getUint32(0)
  return number > 1 && number <= pageCount
}

function headBits(bytes: Uint8Array, at: number, columns: number, profile: Profile): number {
  const first = readCount(bytes, at, bytes.length, columns)
  return first ? (fitTypes({ ...profile, columns, leastColumns: columns, shortest: columns }, first.types) ?? 0) : 0
}

function skipVarint(bytes: Uint8Array, at: number): number {
  let end = at
  while (end < at + 8 && (bytes[end] as number) >= 0x80) end++
  return end + 1
}

/** Where no live row says what is usual, or where index entries lie, more is asked for. */
function leastBits({ kind }: Search, { fits }: Candidate): number {
  if (kind === 'whole-table') return WEIGHTS.leastAmongIndex
  return fits[0]?.profile.fitted ? WEIGHTS.least : WEIGHTS.least + WEIGHTS.leastUnfitted
}

/**
 * A candidate as far as it was not written over: new cells are cut from the high end of a freed one, whose head stays.
 * Undefined: too little is left of it.
 */
function withoutOverwritten(
  search: Search,
  candidate: Candidate,
  chosen: readonly (Candidate | undefined)[],
  best: Float64Array,
): Candidate | undefined {
  const { bytes, format } = search
  const from = candidate.start + 1 - search.start
  const inside = (best[from] as number) - (best[candidate.end - search.start] as number)
  const cell = inside < WEIGHTS.overwritten ? undefined : search.start + firstPicked(from, chosen, best)
  // Both claim the bytes of the head: one of them is none.
  if (cell !== undefined && cell < candidate.body) return inside > candidate.bits ? undefined : candidate
  const impossible = firstImpossible(bytes, candidate, format)
  // A head that is there was written with its values; one that is lost may be none.
  if (impossible !== undefined && candidate.startOverwritten) return undefined
  const freed = freedInside(search, candidate)
  // Behind such a header stands what is left of the later cell's head: letters say that there was none.
  const later = freed !== undefined && impossible === undefined && isInText(candidate, freed + 4) ? undefined : freed
  const over =
    cell !== undefined && isIndexCell(search.kind)
      ? startOfIndexCell(bytes, cell, candidate.body, format.pageCount)
      : cell
  const end = over ?? later ?? cellInside(bytes, candidate, format) ?? impossible
  if (end === undefined) return candidate
  return end > candidate.body && end < candidate.end
    ? { ...candidate, end, cut: true, bits: candidate.bits + WEIGHTS.cut }
    : undefined
}

function firstPicked(from: number, chosen: readonly (Candidate | undefined)[], best: Float64Array): number {
  let at = from
  while (at < best.length && !(chosen[at] && (best[at] as number) > (best[at + 1] as number))) at++
  return at
}

/** A freeblock's header among the values, whose block ends where the cell or its region does: a later cell lay there. */
function freedInside({ bytes, end: limit }: Search, { body, end, cut }: Candidate): number | undefined {
  if (cut) return undefined
  for (let at = body; at < end && at + 4 <= limit; at++) {
    const size = ((bytes[at + 2] as number) << 8) | (bytes[at + 3] as number)
    if (at + size !== limit && (at + size !== end || size <= 8)) continue
    const next = ((bytes[at] as number) << 8) | (bytes[at + 1] as number)
    if (next === 0 || (next >= at + size && next < bytes.length)) return at
  }
  return undefined
}

/** Whether a text stands at an offset, and goes on for some letters. */
function isInText({ types, body, lostSize }: Candidate, offset: number): boolean {
  let at = body
  for (const type of types) {
    const end = at + sizeOf(type, lostSize)
    if (end > offset) return at <= offset && end >= offset + 4 && type >= 13 && type % 2 === 1
    at = end
  }
  return false
}

type NextStart = (from: number) => number | undefined

const NONE: readonly Candidate[] = []

function candidatesAt(search: Search, at: number, nextStart: NextStart): readonly Candidate[] {
  const { bytes, end, kind, format } = search
  const whole = mayBeCell(bytes, at, end, isIndexCell(kind), format.mostHeader) ? wholeCell(search, at) : undefined
  const freed = kind !== 'whole-table' && at + 8 < end && mayBeFreed(bytes, at, format.usableSize)
  if (!freed) return whole ? [whole] : NONE
  const headless = [...overwrittenCells(search, at, nextStart)]
  return whole ? [whole, ...headless] : headless
}

function endsAtCell(
  search: Search,
  candidate: Candidate,
  chosen: readonly (Candidate | undefined)[],
  best: Float64Array,
): boolean {
  if (candidate.cut) return false
  const from = candidate.end - search.start
  for (let gap = 0; gap <= FRAGMENT && from + gap < best.length; gap++) {
    if (from + gap === best.length - 1 || chosen[from + gap]) return true
  }
  return false
}

function pick(search: Search, best: Float64Array, chosen: readonly (Candidate | undefined)[]): Candidate[] {
  const cells: Candidate[] = []
  for (let offset = 0; offset < best.length; ) {
    const candidate = chosen[offset]
    // A cell is taken where the best sum of all includes it.
    if (candidate && (best[offset] as number) > (best[offset + 1] as number)) {
      cells.push(candidate)
      offset = candidate.end - search.start
    } else offset++
  }
  return cells
}
