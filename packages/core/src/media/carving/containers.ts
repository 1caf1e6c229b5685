import type { Bytes, Extent, Walk } from './types.js'
import { bigEndian, latin, littleEndian } from './window.js'

const MOST_PARTS = 100_000

/** Boxes that stand at the top of a file (ISO/IEC 14496-12; `wide` and `free` are of its forerunner). */
const BOXES = new Set(
  'ftyp moov mdat free skip wide uuid meta moof mfra sidx styp pdin udta idat pnot prfl emsg ssix prft'.split(' '),
)

/** Files of boxes: MP4, MOV, M4A, HEIC, AVIF. Whole: it has what its kind needs, and its last box ends inside. */
export const walkBoxes: Walk = (bytes, start) => {
  const seen = new Set<string>()
  let at = start
  for (let parts = 0; parts < MOST_PARTS; parts++) {
    const name = latin(bytes, at + 4, 4)
    const size = BOXES.has(name) && !(name === 'ftyp' && parts > 0) ? boxSize(bytes, at) : undefined
    // Behind the last box anything may follow.
    if (size === undefined) break
    if (parts === 0 && (name !== 'ftyp' || size > 4096 || size < 16)) return undefined
    if (at + size > bytes.size) return enough(seen, name) ? { end: bytes.size, wholeness: 'cut' } : undefined
    seen.add(name)
    at += size
  }
  if (seen.has('moov') && seen.has('mdat')) return { end: at, wholeness: 'whole' }
  if (seen.has('meta') && (seen.has('mdat') || seen.has('idat'))) return { end: at, wholeness: 'whole' }
  return seen.size > 1 ? { end: at, wholeness: 'doubtful' } : undefined
}

const enough = (seen: ReadonlySet<string>, name: string) => seen.size > 1 || name === 'mdat' || name === 'moov'

function boxSize(bytes: Bytes, at: number): number | undefined {
  const size = bigEndian(bytes, at, 4)
  if (size === 1) {
    const large = bigEndian(bytes, at + 8, 8)
    return large !== undefined && Number.isSafeInteger(large) && large >= 16 ? large : undefined
  }
  // 0: up to the end of the file, which is not known here.
  return size !== undefined && size >= 8 ? size : undefined
}

/** The kind of a file of boxes by its brand. */
export function brandOf(bytes: Bytes, start: number): { mime: string; ending: string } {
  const brand = latin(bytes, start + 8, 4)
  if (/^(heic|heix|hevc|heim|heis|mif1|msf1)$/.test(brand)) return { mime: 'image/heic', ending: 'heic' }
  if (brand === 'avif' || brand === 'avis') return { mime: 'image/avif', ending: 'avif' }
  if (brand === 'qt  ') return { mime: 'video/quicktime', ending: 'mov' }
  if (/^M4[AB] $/.test(brand)) return { mime: 'audio/mp4', ending: 'm4a' }
  return { mime: 'video/mp4', ending: 'mp4' }
}

/** The first chunk of a WebP (RFC 9649, section 2.5 on): a lossy or a lossless picture, or what the file has beyond one. */
function startsPicture(bytes: Bytes, at: number): boolean {
  const name = latin(bytes, at, 4)
  if (name === 'VP8 ') return latin(bytes, at + 11, 3) === '\x9d\x01\x2a'
  if (name === 'VP8L') return bytes.at(at + 8, 1)[0] === 0x2f
  return name === 'VP8X' && littleEndian(bytes, at + 4, 4) === 10
}

const RIFF_FORMS: Record<string, { mime: string; ending: string }> = {
  WAVE: { mime: 'audio/wav', ending: 'wav' },
  WEBP: { mime: 'image/webp', ending: 'webp' },
  'AVI ': { mime: 'video/x-msvideo', ending: 'avi' },
}

/** The kind of a file of RIFF by its form. */
export const riffKind = (bytes: Bytes, start: number) =>
  RIFF_FORMS[latin(bytes, start + 8, 4)] as { mime: string; ending: string }

/** RIFF (WAV, WebP, AVI): chunks whose sizes make up the size that the head names. */
export const walkRiff: Walk = (bytes, start) => {
  const size = littleEndian(bytes, start + 4, 4)
  const form = latin(bytes, start + 8, 4)
  if (size === undefined || size < 4 || !Object.hasOwn(RIFF_FORMS, form)) return undefined
  if (form === 'WEBP' && !startsPicture(bytes, start + 12)) return undefined
  const end = start + 8 + size + (size % 2)
  let at = start + 12
  let unproven: Extent['unproven']
  for (let parts = 0; parts < MOST_PARTS && at + 8 <= Math.min(end, bytes.size); parts++) {
    const length = littleEndian(bytes, at + 4, 4)
    if (length === undefined || !/^[\x20-\x7e]{4}$/.test(latin(bytes, at, 4)))
      return parts > 0 ? { end: at, wholeness: 'cut' } : undefined
    if (UNPROVEN.has(latin(bytes, at, 4))) unproven = { start: at + 8, end: at + 8 + length }
    at += 8 + length + (length % 2)
  }
  if (at > bytes.size || end > bytes.size + 1)
    return at > start + 12 ? { end: bytes.size, wholeness: 'cut' } : undefined
  return Math.abs(at - end) <= 1
    ? { end: Math.min(at, bytes.size), wholeness: 'whole', ...(unproven && { unproven }) }
    : { end: Math.min(at, end), wholeness: 'doubtful' }
}

/** Chunks of RIFF that hold sound, the points of a picture, or lists of them. */
const UNPROVEN = new Set(['data', 'VP8 ', 'VP8L', 'ANMF', 'LIST'])

const CAF_CHUNKS = new Set(
  'desc data pakt chan cuex edct free info inst kuki midi mark ovvw peak regn strg umid uuid'.split(' '),
)

/** CAF (Core Audio Format, version 1): chunks of known kinds; the audio data may reach up to the end. */
export const walkCaf: Walk = (bytes, start) => {
  if (bigEndian(bytes, start + 4, 2) !== 1 || latin(bytes, start + 8, 4) !== 'desc') return undefined
  let at = start + 8
  let data = false
  let unproven: Extent['unproven']
  for (let parts = 0; parts < MOST_PARTS; parts++) {
    const name = latin(bytes, at, 4)
    if (!CAF_CHUNKS.has(name)) break
    const size = bigEndian(bytes, at + 4, 8)
    // All ones: the length was never written.
    if (size === undefined || !Number.isSafeInteger(size))
      return data || name === 'data' ? { end: bytes.size, wholeness: 'doubtful' } : undefined
    data ||= name === 'data'
    if (at + 12 + size > bytes.size) return data ? { end: bytes.size, wholeness: 'cut' } : undefined
    if (name === 'data') unproven = { start: at + 12, end: at + 12 + size }
    at += 12 + size
  }
  return data ? { end: at, wholeness: 'whole', ...(unproven && { unproven }) } : undefined
}

// Bytes of a frame by its mode (RFC 4867, section 5.3); the modes between are not in use.
const AMR_FRAMES: Record<number, number> = { 0: 13, 1: 14, 2: 16, 3: 18, 4: 20, 5: 21, 6: 27, 7: 32, 8: 6, 15: 1 }
const LEAST_FRAMES = 5

/** AMR (RFC 4867, section 5): frames one behind the other, until something is none. */
export const walkAmr: Walk = (bytes, start) => {
  let at = start + 6
  let frames = 0
  for (; ; frames++) {
    const head = bytes.at(at, 1)[0]
    // Padding bits are zero, the quality bit is set.
    const size = head !== undefined && (head & 0x87) === 0x04 ? AMR_FRAMES[(head >> 3) & 15] : undefined
    if (size === undefined) break
    if (at + size > bytes.size) return frames >= LEAST_FRAMES ? { end: at, wholeness: 'cut' } : undefined
    at += size
  }
  return frames >= LEAST_FRAMES ? { end: at, wholeness: 'whole' } : undefined
}
