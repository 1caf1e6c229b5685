import { type Catalogue, USE } from '../../catalogue.js'
import type { Database } from '../../database.js'
import { decodeValue, isCleanText } from '../../record.js'
import type { SqlValue } from '../../values.js'
import { sizeOf } from '../evidence/candidate.js'
import type { Located } from './page.js'

/** The values of a leftover record in stored order; undefined for what was overwritten or cannot be told. */
export interface Decoded {
  values: (SqlValue | undefined)[]
  whole: boolean
  /** Values that lie on the cell's own page. */
  ownValues: number
  /** Overflow pages that were taken for the record's. */
  pages: number[]
}

/** Reads the values of a record, its overflow pages included as far as they are still its own. */
export function decode(database: Database, catalogue: Catalogue, located: Located): Decoded {
  const { candidate } = located
  const pages: number[] = []
  const own = localBody(located)
  const body = candidate.overflow === 0 ? own : bodyWithOverflow(database, catalogue, located, pages)
  let ownValues = 0
  const values: (SqlValue | undefined)[] = []
  let at = 0
  for (const [position, type] of candidate.types.entries()) {
    const size = sizeOf(type, candidate.lostSize)
    values.push(type >= 0 && at + size <= body.length ? valueAt(body, at, type, size, database) : undefined)
    at += size
    if (at <= own.length) ownValues = position + 1
  }
  if (candidate.cut && located.kind !== 'freeblock') forgetLastBefore(values, candidate.types)
  return { values, ownValues, pages, whole: body.length >= at && values.every((value) => value !== undefined) }
}

/**
 * A cell that was written over is known to be lost from some byte on, and perhaps was from a few bytes before: only a
 * text would show it. A freed block that was used from its end on is cut exactly there.
 */
function forgetLastBefore(values: (SqlValue | undefined)[], types: readonly number[]): void {
  const lost = values.indexOf(undefined)
  let last = (lost < 0 ? values.length : lost) - 1
  while (last >= 0 && (types[last] === 0 || types[last] === 8 || types[last] === 9)) last--
  const type = types[last] ?? 0
  if (type < 13 || type % 2 === 0) values.fill(undefined, Math.max(0, last), lost < 0 ? values.length : lost)
}

function localBody({ candidate, image }: Located): Uint8Array {
  const header = candidate.payloadSize - bodyLength(candidate)
  const end = Math.min(candidate.end, candidate.body + candidate.local - header)
  return image.bytes.subarray(candidate.body, end)
}

function bodyLength({ types, lostSize }: Located['candidate']): number {
  return types.reduce((sum, type) => sum + sizeOf(type, lostSize), 0)
}

function valueAt(body: Uint8Array, at: number, type: number, size: number, { pager }: Database): SqlValue | undefined {
  const { encoding } = pager.header
  if (type >= 13 && type % 2 === 1 && !isCleanText(body, at, size, encoding)) return undefined
  const value = decodeValue(body, at, type, size, encoding)
  // SQLite stores NULL instead of what is no number.
  return typeof value === 'number' && Number.isNaN(value) ? undefined : value
}

/** A page that may still hold what a deleted row left on it: one that is used again, or a trunk, does not. */
function givenUpPage({ pager }: Database, { use }: Catalogue, page: number): Uint8Array | undefined {
  if (page > pager.pageCount || (use[page] !== USE.freeLeaf && use[page] !== USE.unknown)) return undefined
  return pager.tryPage(page)
}

function bodyWithOverflow(database: Database, catalogue: Catalogue, located: Located, pages: number[]): Uint8Array {
  const parts = [localBody(located)]
  const { candidate, image } = located
  let left = candidate.payloadSize - candidate.local
  const room = database.pager.header.usableSize - 4
  const seen = new Set<number>()
  for (let page = candidate.overflow; left > 0 && !candidate.cut; ) {
    if (seen.has(page) || page < 2) break
    seen.add(page)
    const bytes = image.companion?.(page) ?? givenUpPage(database, catalogue, page)
    if (!bytes) break
    const next = new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0)
    if (left > room === (next === 0)) break
    const part = bytes.subarray(4, 4 + Math.min(room, left))
    // As secure_delete leaves it: it is not known whether these bytes were zero before.
    if (part.every((byte) => byte === 0)) break
    pages.push(page)
    parts.push(part)
    left -= Math.min(room, left)
    page = next
  }
  return Buffer.concat(parts)
}
