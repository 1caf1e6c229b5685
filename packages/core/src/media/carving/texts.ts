import { isUtf8 } from 'node:buffer'
import type { Bytes, Extent, Walk } from './types.js'

const MOST_TEXT = 4_000_000

/** A text that has a word at its beginning and one at its end, several of which may follow each other in one file. */
function walkBlocks(first: string, last: string, mustHold: string): Walk {
  return (bytes, start) => {
    let found: Extent | undefined
    for (let at = start; at - start < MOST_TEXT; ) {
      const end = bytes.find(last, at, MOST_TEXT)
      if (end === undefined) break
      const piece = Buffer.from(bytes.at(at, end + last.length - at))
      const text = isUtf8(piece) && !piece.includes(0) ? piece.toString('utf8') : ''
      // Where another begins before this one ends, its own end is gone.
      if (!text.startsWith(first) || text.indexOf(first, 1) >= 0 || !text.includes(mustHold)) break
      at = behindLine(bytes, end + last.length)
      found = { end: at, wholeness: 'whole' }
    }
    return found
  }
}

function behindLine(bytes: Bytes, at: number): number {
  const [first, second] = bytes.at(at, 2)
  if (first === 0x0d && second === 0x0a) return at + 2
  return first === 0x0a ? at + 1 : at
}

/** Contacts (RFC 6350): cards, which are said to have a version; its line may be folded behind the name. */
export const walkVCard = walkBlocks('BEGIN:VCARD', 'END:VCARD', '\nVERSION')

/** Calendars (RFC 5545). */
export const walkCalendar = walkBlocks('BEGIN:VCALENDAR', 'END:VCALENDAR', '\nVERSION')

const RTF = '{\\rtf1'
const MOST_RTF = 50_000_000
const STEP = 1 << 16
const [OPEN, CLOSE, ESCAPE] = [0x7b, 0x7d, 0x5c]

/** Rich text (RTF 1.9.1): groups in braces, up to the end of the outermost. It is written in seven bits. */
export const walkRtf: Walk = (bytes, start) => {
  // Where another one begins, this one's end is gone.
  const limit = bytes.find(RTF, start + 1, MOST_RTF) ?? Math.min(bytes.size, start + MOST_RTF)
  let depth = 0
  let escaped = false
  for (let from = start; from < limit; from += STEP) {
    const piece = bytes.at(from, Math.min(STEP, limit - from))
    for (const [i, byte] of piece.entries()) {
      if (byte === 0 || byte > 0x7f) return from + i - start > 64 ? { end: from + i, wholeness: 'cut' } : undefined
      if (escaped) escaped = false
      else if (byte === ESCAPE) escaped = true
      else if (byte === OPEN) depth++
      else if (byte === CLOSE && --depth === 0) return { end: behindLine(bytes, from + i + 1), wholeness: 'whole' }
    }
  }
  return limit - start > 64 ? { end: limit, wholeness: 'cut' } : undefined
}
