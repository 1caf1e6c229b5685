import { brandOf, riffKind, walkAmr, walkBoxes, walkCaf, walkRiff } from './containers.js'
import { walkBinaryList, walkPdf, walkSqlite, walkXmlList } from './documents.js'
import { zipKind } from './kinds-of-zip.js'
import { matroskaKind, walkMatroska } from './matroska.js'
import { walkGif, walkJpeg, walkPng } from './pictures.js'
import { tiffKind, walkBitmap, walkTiff } from './rasters.js'
import { MP3_MARKS, oggKind, walkAiff, walkFlac, walkMp3, walkOgg } from './sounds.js'
import { walkCalendar, walkRtf, walkVCard } from './texts.js'
import type { Pattern } from './types.js'
import { walkZip } from './zip.js'

const text = (mark: string) => Buffer.from(mark, 'latin1')

/** The marks that are searched for, of two bytes or more. Whether a file begins there is decided by the walk of its kind. */
export const PATTERNS: readonly Pattern[] = [
  { mime: 'image/jpeg', ending: 'jpg', mark: Buffer.of(0xff, 0xd8, 0xff), markAt: 0, walk: walkJpeg },
  { mime: 'image/png', ending: 'png', mark: text('\x89PNG\r\n\x1a\n'), markAt: 0, walk: walkPng },
  { mime: 'image/gif', ending: 'gif', mark: text('GIF87a'), markAt: 0, walk: walkGif },
  { mime: 'image/gif', ending: 'gif', mark: text('GIF89a'), markAt: 0, walk: walkGif },
  { mime: 'image/tiff', ending: 'tif', mark: text('II*\0'), markAt: 0, walk: walkTiff, kindOf: tiffKind },
  { mime: 'image/tiff', ending: 'tif', mark: text('MM\0*'), markAt: 0, walk: walkTiff, kindOf: tiffKind },
  { mime: 'image/bmp', ending: 'bmp', mark: text('BM'), markAt: 0, walk: walkBitmap },
  { mime: 'video/mp4', ending: 'mp4', mark: text('ftyp'), markAt: 4, walk: walkBoxes, kindOf: brandOf },
  {
    ...{ mime: 'video/x-matroska', ending: 'mkv', mark: text('\x1a\x45\xdf\xa3'), markAt: 0 },
    ...{ walk: walkMatroska, kindOf: matroskaKind },
  },
  { mime: 'audio/wav', ending: 'wav', mark: text('RIFF'), markAt: 0, walk: walkRiff, kindOf: riffKind },
  { mime: 'audio/x-caf', ending: 'caf', mark: text('caff'), markAt: 0, walk: walkCaf },
  { mime: 'audio/amr', ending: 'amr', mark: text('#!AMR\n'), markAt: 0, walk: walkAmr },
  { mime: 'audio/mpeg', ending: 'mp3', mark: text('ID3'), markAt: 0, walk: walkMp3 },
  ...MP3_MARKS.map((mark) => ({ mime: 'audio/mpeg', ending: 'mp3', mark, markAt: 0, walk: walkMp3 })),
  { mime: 'audio/flac', ending: 'flac', mark: text('fLaC'), markAt: 0, walk: walkFlac },
  { mime: 'audio/ogg', ending: 'ogg', mark: text('OggS'), markAt: 0, walk: walkOgg, kindOf: oggKind },
  { mime: 'audio/aiff', ending: 'aiff', mark: text('FORM'), markAt: 0, walk: walkAiff },
  { mime: 'application/pdf', ending: 'pdf', mark: text('%PDF-'), markAt: 0, walk: walkPdf },
  { mime: 'application/rtf', ending: 'rtf', mark: text('{\\rtf1'), markAt: 0, walk: walkRtf },
  { mime: 'text/vcard', ending: 'vcf', mark: text('BEGIN:VCARD'), markAt: 0, walk: walkVCard },
  { mime: 'text/calendar', ending: 'ics', mark: text('BEGIN:VCALENDAR'), markAt: 0, walk: walkCalendar },
  { mime: 'application/zip', ending: 'zip', mark: text('PK\x03\x04'), markAt: 0, walk: walkZip, kindOf: zipKind },
  { mime: 'application/vnd.sqlite3', ending: 'sqlite', mark: text('SQLite format 3\0'), markAt: 0, walk: walkSqlite },
  { mime: 'application/x-plist', ending: 'plist', mark: text('bplist00'), markAt: 0, walk: walkBinaryList },
  { mime: 'application/x-plist', ending: 'plist', mark: text('<?xml'), markAt: 0, walk: walkXmlList },
]

/** A place at which a mark stands. */
export interface Mark {
  at: number
  pattern: Pattern
}

// A mark of four bytes or more has three pairs of bytes in its first four, one of which stands at every third place: so two
// of three places are passed over. Shorter ones are left to Node's own search, which is quick with few.
const STRIDE = 3
const LONG = PATTERNS.filter(({ mark }) => mark.length > STRIDE)
const SHORT = PATTERNS.filter(({ mark }) => mark.length <= STRIDE)

/** For each pair of bytes: the patterns in whose marks it stands, and how far behind their beginning. */
const BY_PAIR = new Map<number, { pattern: Pattern; behind: number }[]>()
for (const pattern of LONG)
  for (let behind = 0; behind < STRIDE; behind++) {
    const pair = pairAt(pattern.mark, behind)
    BY_PAIR.set(pair, [...(BY_PAIR.get(pair) ?? []), { pattern, behind }])
  }
const IS_PAIR = new Uint8Array(1 << 16)
for (const pair of BY_PAIR.keys()) IS_PAIR[pair] = 1

function pairAt(bytes: Uint8Array, at: number): number {
  return ((bytes[at] as number) << 8) | (bytes[at + 1] as number)
}

/** Every mark that begins before `limit`, in the order of their places. */
export function marksIn(piece: Uint8Array, limit: number): Mark[] {
  const bytes = Buffer.from(piece.buffer, piece.byteOffset, piece.byteLength)
  const marks: Mark[] = []
  for (const pattern of SHORT)
    for (let at = bytes.indexOf(pattern.mark); at >= 0 && at < limit; at = bytes.indexOf(pattern.mark, at + 1))
      marks.push({ at, pattern })
  for (let at = nextPair(piece, 0, limit); at >= 0; at = nextPair(piece, at + STRIDE, limit))
    for (const { pattern, behind } of BY_PAIR.get(pairAt(piece, at)) ?? [])
      if (at - behind < limit && stands(pattern.mark, piece, at - behind)) marks.push({ at: at - behind, pattern })
  return marks.sort((a, b) => a.at - b.at)
}

/** The next place of a pair that stands in a mark, in strides from `from`; -1: there is none. */
function nextPair(bytes: Uint8Array, from: number, limit: number): number {
  const end = Math.min(limit + STRIDE, bytes.length - 1)
  for (let at = from; at < end; at += STRIDE)
    if (IS_PAIR[((bytes[at] as number) << 8) | (bytes[at + 1] as number)] !== 0) return at
  return -1
}

function stands(mark: Uint8Array, bytes: Uint8Array, at: number): boolean {
  if (at < 0 || at + mark.length > bytes.length) return false
  for (let i = 0; i < mark.length; i++) if (bytes[at + i] !== mark[i]) return false
  return true
}
