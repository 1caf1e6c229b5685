import { isUtf8 } from 'node:buffer'
import { FormatError } from '../../io/errors.js'
import { type ByteSource, RangeSource } from '../../io/source.js'
import { catalogueOf } from '../../sqlite/catalogue.js'
import { Database } from '../../sqlite/database.js'
import type { Bytes, Walk } from './types.js'
import { bigEndian, latin } from './window.js'

const MOST_BYTES = 200_000_000

/**
 * PDF (ISO 32000-1, section 7.5): up to the end mark behind which no further revision of it follows. Whole: the
 * offset that stands before the mark leads to a cross-reference.
 */
export const walkPdf: Walk = (bytes, start) => {
  if (!/^%PDF-[12]\.\d/.test(latin(bytes, start, 8))) return undefined
  const next = bytes.find('%PDF-', start + 8, MOST_BYTES) ?? bytes.size
  let end: number | undefined
  let whole = false
  for (let at = start; ; ) {
    const mark = bytes.find('%%EOF', at, next - at)
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
    return bytes.find(' obj', start, 4096) === undefined
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

/**
 * SQLite ("Database File Format", section 1.3): so many pages as the head says. Whole: all of its trees can be walked in
 * them, so that no other file's bytes lie between.
 */
export const walkSqlite: Walk = (bytes, start) => {
  const stored = bigEndian(bytes, start + 16, 2)
  const pageSize = stored === 1 ? 65536 : (stored ?? 0)
  const pages = bigEndian(bytes, start + 28, 4) ?? 0
  const fractions = latin(bytes, start + 21, 3)
  if (pageSize < 512 || (pageSize & (pageSize - 1)) !== 0 || fractions !== '\x40\x20\x20') return undefined
  if (pages === 0) return { end: Math.min(start + pageSize, bytes.size), wholeness: 'doubtful' }
  const end = start + pageSize * pages
  if (end > bytes.size) return { end: bytes.size, wholeness: 'cut' }
  // Many heads that each claim all that follows would have it walked again and again.
  bytes.spend(end - start)
  return { end, wholeness: holdsTogether(new RangeSource(bytes.source, { start, end })) ? 'whole' : 'doubtful' }
}

function holdsTogether(source: ByteSource): boolean {
  let flaws = 0
  try {
    catalogueOf(Database.open(source, () => flaws++))
  } catch (thrown) {
    if (thrown instanceof FormatError) return false
    throw thrown
  }
  return flaws === 0
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

/** Property lists in XML: text up to their end, in which no other document begins. */
export const walkXmlList: Walk = (bytes, start) => {
  if (!latin(bytes, start, 512).includes('<plist')) return undefined
  const found = bytes.find('</plist>', start, MOST_LIST)
  if (found === undefined) return undefined
  const end = found + 8 + lineEnd(bytes, found + 8)
  const piece = bytes.at(start, end - start)
  const isText = isUtf8(piece) && !piece.includes(0)
  const other = bytes.find('<?xml', start + 1, end - start)
  return isText && other === undefined ? { end, wholeness: 'whole' } : { end, wholeness: 'doubtful' }
}
