import type { Bytes, Walk } from './types.js'
import { bigEndian, latin, littleEndian } from './window.js'

const MOST_BYTES = 200_000_000
const STEP = 1 << 18

/** Offset of a text from an offset on; undefined: it is not there within the limit. */
function find(bytes: Bytes, text: string, from: number, limit = MOST_BYTES): number | undefined {
  const wanted = Buffer.from(text, 'latin1')
  for (let at = from; at < from + limit && at < bytes.size; ) {
    const piece = bytes.at(at, Math.min(STEP, from + limit - at) + wanted.length)
    const found = Buffer.from(piece.buffer, piece.byteOffset, piece.length).indexOf(wanted)
    if (found >= 0) return at + found < from + limit ? at + found : undefined
    at += Math.max(1, piece.length - wanted.length + 1)
    if (piece.length < wanted.length) return undefined
  }
  return undefined
}

/**
 * PDF (ISO 32000-1, section 7.5): up to the end mark behind which no further revision of it follows. Whole: the
 * offset that stands before the mark leads to a cross-reference.
 */
export const walkPdf: Walk = (bytes, start) => {
  if (!/^%PDF-[12]\.\d/.test(latin(bytes, start, 8))) return undefined
  const next = find(bytes, '%PDF-', start + 8) ?? bytes.size
  let end: number | undefined
  let whole = false
  for (let at = start; ; ) {
    const mark = find(bytes, '%%EOF', at, next - at)
    if (mark === undefined) break
    const before = latin(bytes, Math.max(start, mark - 64), mark - Math.max(start, mark - 64))
    const offset = /startxref\s+(\d{1,12})\s+$/.exec(before)?.[1]
    at = mark + 5
    if (offset === undefined) continue
    // An end mark whose cross-reference is none of this file belongs to something else.
    const leads = Number(offset) === 0 || leadsToTable(bytes, start + Number(offset), mark)
    if (end !== undefined && !leads) break
    end = mark + 5 + lineEnd(bytes, mark + 5)
    whole ||= leads
  }
  if (end === undefined)
    return find(bytes, ' obj', start, 4096) === undefined
      ? undefined
      : { end: Math.min(next, start + MOST_BYTES), wholeness: 'cut' }
  return { end, wholeness: whole ? 'whole' : 'doubtful' }
}

const leadsToTable = (bytes: Bytes, at: number, before: number) =>
  at < before && /^\s*(xref|\d+\s+\d+\s+obj)/.test(latin(bytes, at, 32))

function lineEnd(bytes: Bytes, at: number): number {
  const text = latin(bytes, at, 2)
  return text === '\r\n' ? 2 : text[0] === '\n' || text[0] === '\r' ? 1 : 0
}

// Zips inside of a zip have end records of their own.
const MOST_RECORDS = 256
const END_OF_DIRECTORY = 'PK\u0005\u0006'

/** ZIP (APPNOTE 6.3, section 4.3): up to the end record whose directory begins where this file makes it begin. */
export const walkZip: Walk = (bytes, start) => {
  const nameLength = littleEndian(bytes, start + 26, 2)
  if (nameLength === undefined || nameLength === 0 || nameLength > 1024) return undefined
  // Every entry begins like a file of its own: one without an end record is nothing that can be told apart.
  for (let at = start, tries = 0; tries < MOST_RECORDS; tries++) {
    const record = find(bytes, END_OF_DIRECTORY, at, start + MOST_BYTES - at)
    if (record === undefined) return undefined
    const size = littleEndian(bytes, record + 12, 4)
    const offset = littleEndian(bytes, record + 16, 4)
    const comment = littleEndian(bytes, record + 20, 2)
    if (size !== undefined && offset !== undefined && comment !== undefined && start + offset + size === record) {
      const end = record + 22 + comment
      return end <= bytes.size ? { end, wholeness: 'whole' } : { end: bytes.size, wholeness: 'cut' }
    }
    at = record + 4
  }
  return undefined
}

/** SQLite ("Database File Format", section 1.3): so many pages as the head says. */
export const walkSqlite: Walk = (bytes, start) => {
  const stored = bigEndian(bytes, start + 16, 2)
  const pageSize = stored === 1 ? 65536 : (stored ?? 0)
  const pages = bigEndian(bytes, start + 28, 4) ?? 0
  const fractions = latin(bytes, start + 21, 3)
  if (pageSize < 512 || (pageSize & (pageSize - 1)) !== 0 || fractions !== '\x40\x20\x20') return undefined
  if (pages === 0) return { end: Math.min(start + pageSize, bytes.size), wholeness: 'doubtful' }
  const end = start + pageSize * pages
  return end <= bytes.size ? { end, wholeness: 'whole' } : { end: bytes.size, wholeness: 'cut' }
}

const MOST_LIST = 4_000_000
const TRAILER = 32

/** Binary property lists: up to the first place where a trailer makes sense of all that lies before it. */
export const walkBinaryList: Walk = (bytes, start) => {
  const piece = bytes.at(start, Math.min(MOST_LIST, bytes.size - start))
  const view = new DataView(piece.buffer, piece.byteOffset, piece.length)
  for (let trailer = 9; trailer + TRAILER <= piece.length; trailer++) {
    // Five unused bytes and a sort version in front, then two sizes: few places look like that.
    if (piece[trailer] !== 0 || piece[trailer + 1] !== 0 || piece[trailer + 4] !== 0) continue
    const offsetSize = piece[trailer + 6] as number
    const refSize = piece[trailer + 7] as number
    if (offsetSize < 1 || offsetSize > 8 || refSize < 1 || refSize > 8) continue
    const objects = Number(view.getBigUint64(trailer + 8))
    const top = Number(view.getBigUint64(trailer + 16))
    const table = Number(view.getBigUint64(trailer + 24))
    if (objects >= 1 && top < objects && table >= 9 && table + objects * offsetSize === trailer)
      return { end: start + trailer + TRAILER, wholeness: 'whole' }
  }
  return undefined
}

/** Property lists in XML. */
export const walkXmlList: Walk = (bytes, start) => {
  if (!latin(bytes, start, 512).includes('<plist')) return undefined
  const end = find(bytes, '</plist>', start, MOST_LIST)
  return end === undefined ? undefined : { end: end + 8 + lineEnd(bytes, end + 8), wholeness: 'whole' }
}
