import { readVarint, type Varint, varint64 } from '../../varint.js'
import { bodySize, type Candidate, fitTypes, placeOf, readTypes, weighValues } from '../evidence/candidate.js'
import type { Profile } from '../evidence/profile.js'
import { WEIGHTS } from '../evidence/weights.js'
import { isIndexCell, type Search } from './region.js'

const varint: Varint = { value: 0, size: 0 }
// Header sizes of records: tables of a thousand columns do not occur.
export const MOST_HEADER = 4096

/**
 * A whole cell at `at`: payload size, rowid and record header agree with each other and with a table; with `anyTable`
 * also where it fits none that is known.
 */
export function wholeCell(search: Search, at: number, anyTable = false): Candidate | undefined {
  const { bytes, end, kind, format } = search
  const isIndex = isIndexCell(kind)
  if (!readVarint(bytes, at, end, varint)) return undefined
  const payloadSize = varint.value
  if (payloadSize < 2) return undefined
  const longSize = varint.size > 1
  let record = at + varint.size
  let rowidSize = 0
  if (!isIndex) {
    if (!readVarint(bytes, record, end, varint)) return undefined
    rowidSize = varint.size
    record += rowidSize
  }
  if (!readVarint(bytes, record, end, varint)) return undefined
  const headerSize = varint.value
  if (headerSize < 2 || headerSize > payloadSize || headerSize > MOST_HEADER || record + headerSize > end)
    return undefined
  const types = readTypes(bytes, record + varint.size, record + headerSize, headerSize)
  if (!types || headerSize + bodySize(types) !== payloadSize) return undefined
  const rowid = isIndex ? null : varint64(bytes, record - rowidSize, record).value
  const found = { start: at, record, types, body: record + headerSize, payloadSize, rowid, lostSize: 0 }
  const candidate = complete(search, found, format.profiles, anyTable)
  // Payload size and header size each had to be right to the byte; a longer size is right more rarely.
  if (candidate)
    candidate.bits += WEIGHTS.whole + (longSize ? WEIGHTS.wholeLong : 0) + (candidate.end <= end ? 0 : WEIGHTS.wholeCut)
  return candidate
}

/** The parts of a cell, before it is known what it fits. */
export interface Found {
  start: number
  record: number
  types: number[]
  body: number
  payloadSize: number
  rowid: number | bigint | null
  lostSize: number
}

/** A candidate from its parts; undefined: it fits none of the tables (unless it may be of any), or cannot lie here. */
export function complete(
  { bytes, end: limit, kind, format }: Search,
  found: Found,
  profiles: readonly Profile[],
  anyTable = false,
): Candidate | undefined {
  const isIndex = isIndexCell(kind)
  const place = placeOf(bytes, found.record, found.payloadSize, !isIndex, limit, format)
  if (!place) return undefined
  const cut = place.end > limit
  const end = Math.min(place.end, limit)
  const { start, types, body, payloadSize, rowid, lostSize } = found
  const fits: Candidate['fits'] = []
  for (const profile of profiles) {
    // Entries of an ordinary index look like short rows of a table without rowids: only full ones count.
    if (profile.table.withoutRowid !== isIndex || (kind === 'index' && types.length < profile.columns)) continue
    const bits = fitTypes(profile, types)
    if (bits === undefined) continue
    const all = bits + weighValues(bytes, body, end, types, lostSize, profile, format)
    // SQLite would take such a row, but none like it is there: it is another table's.
    if (all > WEIGHTS.leastFit) fits.push({ profile, bits: all })
  }
  const [best] = fits.sort((a, b) => b.bits - a.bits)
  // Nothing but NULLs and the two constants has no bytes that could speak for it.
  if ((!best && !anyTable) || payloadSize - (body - found.record) < 1) return undefined
  return {
    start,
    end,
    types,
    body,
    payloadSize,
    local: place.local,
    overflow: place.overflow,
    ofIndex: isIndex,
    rowid,
    lostSize,
    cut,
    fits,
    startOverwritten: false,
    typesLost: 0,
    chance: 1,
    bits: best?.bits ?? 0,
    intact: false,
  }
}

/** Bytes that a varint of this value takes. */
export function varintSize(value: number): number {
  let size = 1
  for (let rest = Math.floor(value / 128); rest > 0 && size < 9; rest = Math.floor(rest / 128)) size++
  return size
}
