import { setImmediate as nextTurn } from 'node:timers/promises'
import type { Report, Warning } from '../../io/errors.js'
import type { ByteSource } from '../../io/source.js'
import { brandOf, walkAmr, walkBoxes, walkCaf, walkRiff } from './containers.js'
import { walkBinaryList, walkPdf, walkSqlite, walkXmlList } from './documents.js'
import { walkGif, walkJpeg, walkPng } from './pictures.js'
import type { Carved, Extent, Pattern } from './types.js'
import { latin, WindowedBytes } from './window.js'
import { walkZip } from './zip.js'

const text = (mark: string) => Buffer.from(mark, 'latin1')

/** The marks that are searched for, of three bytes or more. Whether a file begins there is decided by the walk of its kind. */
const PATTERNS: readonly Pattern[] = [
  { mime: 'image/jpeg', ending: 'jpg', mark: Buffer.of(0xff, 0xd8, 0xff), markAt: 0, walk: walkJpeg },
  { mime: 'image/png', ending: 'png', mark: text('\x89PNG\r\n\x1a\n'), markAt: 0, walk: walkPng },
  { mime: 'image/gif', ending: 'gif', mark: text('GIF87a'), markAt: 0, walk: walkGif },
  { mime: 'image/gif', ending: 'gif', mark: text('GIF89a'), markAt: 0, walk: walkGif },
  { mime: 'video/mp4', ending: 'mp4', mark: text('ftyp'), markAt: 4, walk: walkBoxes },
  { mime: 'audio/wav', ending: 'wav', mark: text('RIFF'), markAt: 0, walk: walkRiff },
  { mime: 'audio/x-caf', ending: 'caf', mark: text('caff'), markAt: 0, walk: walkCaf },
  { mime: 'audio/amr', ending: 'amr', mark: text('#!AMR\n'), markAt: 0, walk: walkAmr },
  { mime: 'application/pdf', ending: 'pdf', mark: text('%PDF-'), markAt: 0, walk: walkPdf },
  { mime: 'application/zip', ending: 'zip', mark: text('PK\x03\x04'), markAt: 0, walk: walkZip },
  { mime: 'application/vnd.sqlite3', ending: 'sqlite', mark: text('SQLite format 3\0'), markAt: 0, walk: walkSqlite },
  { mime: 'application/x-plist', ending: 'plist', mark: text('bplist00'), markAt: 0, walk: walkBinaryList },
  { mime: 'application/x-plist', ending: 'plist', mark: text('<?xml'), markAt: 0, walk: walkXmlList },
]

const PIECE = 1 << 20
// Marks are looked for in pieces that overlap by the longest of them.
const OVERLAP = 16

// Honest bytes are looked at two or three times. Bytes of nothing but beginnings would be looked at for ever.
const MOST_LOOKED = 16
const LEAST_LOOKED = 1 << 28

const GIVEN_UP: Warning = {
  code: 'carving-given-up',
  message: 'These bytes hold so many beginnings of files that the search was given up; what was found so far is shown.',
}

/**
 * Searches bytes for files, by structure and not by their beginnings alone; each byte belongs to one whole file at most.
 * Memory is bounded by the windows, however large the source is. `begin`: the first byte at which a file may begin.
 * `pulse` is called after each piece; what it throws ends the search.
 */
export async function* carve(
  source: ByteSource,
  report: Report,
  begin = 0,
  pulse: () => Promise<void> = async () => {},
): AsyncGenerator<Carved> {
  let told = false
  const unread = (start: number, end: number) => {
    if (!told) report({ code: 'file-unreadable', message: `Bytes ${start} to ${end} and perhaps more cannot be read.` })
    told = true
  }
  const search = new WindowedBytes(source, Number.POSITIVE_INFINITY, unread)
  const walked = new WindowedBytes(source, LEAST_LOOKED + MOST_LOOKED * source.size)
  let free = begin
  for (let from = 0; from < search.size; from += PIECE) {
    // Reading is synchronous: whoever else waits for this thread has a turn between two pieces.
    await nextTurn()
    await pulse()
    const piece = search.at(from, PIECE + OVERLAP)
    for (const { at, pattern } of marksIn(piece)) {
      if (from + at < free) continue
      const found = beginning(pattern, from + at, walked)
      if (walked.exhausted) return report(GIVEN_UP)
      if (!found || found.start < free) continue
      yield found
      if (found.wholeness === 'whole') free = found.end
    }
  }
}

interface Mark {
  /** Within the piece. */
  at: number
  pattern: Pattern
}

/** Every mark that begins in a piece, in the order of their places: the search of Node itself is many times ours. */
function marksIn(piece: Uint8Array): Mark[] {
  const bytes = Buffer.from(piece.buffer, piece.byteOffset, piece.byteLength)
  const marks: Mark[] = []
  for (const pattern of PATTERNS)
    for (let at = bytes.indexOf(pattern.mark); at >= 0 && at < PIECE; at = bytes.indexOf(pattern.mark, at + 1))
      marks.push({ at, pattern })
  return marks.sort((a, b) => a.at - b.at)
}

/** The file that a mark is of; undefined: it only looks like one. */
function beginning(pattern: Pattern, markAt: number, bytes: WindowedBytes): Carved | undefined {
  const start = markAt - pattern.markAt
  const found = start < 0 ? undefined : pattern.walk(bytes, start)
  return found && { ...kindOf(pattern, bytes, start), start, ...proven(found, bytes) }
}

/** A file in whose sound or points another one begins that is whole: from there on its own bytes were overwritten. */
function proven({ end, wholeness, unproven }: Extent, bytes: WindowedBytes): Pick<Carved, 'end' | 'wholeness'> {
  for (let from = unproven?.start ?? 0; unproven && from < unproven.end; from += PIECE) {
    const piece = bytes.at(from, Math.min(PIECE + OVERLAP, unproven.end - from)).slice()
    for (const { at, pattern } of marksIn(piece)) {
      const start = from + at - pattern.markAt
      const other = pattern.walk(bytes, start)
      // Sound may look like sound.
      if (other?.wholeness === 'whole' && !other.unproven && other.end <= unproven.end)
        return { end: start, wholeness: 'cut' }
    }
  }
  return { end, wholeness }
}

/** A pattern may stand for several formats of one structure: their brand tells which it is. */
function kindOf({ mime, ending, walk }: Pattern, bytes: WindowedBytes, start: number) {
  if (walk === walkBoxes) return brandOf(bytes, start)
  if (walk === walkRiff && latin(bytes, start + 8, 4) === 'WEBP') return { mime: 'image/webp', ending: 'webp' }
  return { mime, ending }
}
