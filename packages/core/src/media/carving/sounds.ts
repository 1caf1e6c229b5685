import type { Bytes, Extent, Walk } from './types.js'
import { bigEndian, latin, littleEndian } from './window.js'

const MOST_PARTS = 1_000_000
const LEAST_FRAMES = 5

/** A table for checksums of a polynomial, highest bit first. */
function crcTable(polynomial: number, bits: 8 | 16 | 32): Uint32Array {
  const mask = bits === 32 ? 0xffffffff : (1 << bits) - 1
  return Uint32Array.from({ length: 256 }, (_, byte) => {
    let sum = (byte << (bits - 8)) >>> 0
    for (let bit = 0; bit < 8; bit++)
      sum = (sum >>> (bits - 1)) & 1 ? ((sum << 1) ^ polynomial) >>> 0 : (sum << 1) >>> 0
    return (sum & mask) >>> 0
  })
}

const OGG_CRC = crcTable(0x04c11db7, 32)
const LAST_PAGE = 4
const FIRST_PAGE = 2

/** Ogg (RFC 3533): pages that each carry their own checksum, up to the last one of every stream. */
export const walkOgg: Walk = (bytes, start) => {
  const open = new Set<number>()
  let at = start
  for (let pages = 0; pages < MOST_PARTS; pages++) {
    const page = oggPage(bytes, at)
    // A file begins with the first page of a stream. A single page is not enough to speak of a file.
    if (!page || (pages === 0 && !(page.flags & FIRST_PAGE)))
      return pages > 1 ? { end: at, wholeness: 'cut' } : undefined
    if (page.flags & FIRST_PAGE) open.add(page.stream)
    at += page.length
    if (page.flags & LAST_PAGE) open.delete(page.stream)
    if (open.size === 0) return { end: at, wholeness: 'whole' }
  }
  return undefined
}

function oggPage(bytes: Bytes, at: number): { flags: number; stream: number; length: number } | undefined {
  if (latin(bytes, at, 5) !== 'OggS\0') return undefined
  const segments = bytes.at(at + 26, 1)[0] ?? 0
  const length = bytes.at(at + 27, segments).reduce((sum, size) => sum + size, 27 + segments)
  const page = bytes.at(at, length)
  if (page.length < length) return undefined
  const view = new DataView(page.buffer, page.byteOffset, page.length)
  let sum = 0
  for (let i = 0; i < length; i++) {
    // The checksum itself counts as zero.
    const byte = i >= 22 && i < 26 ? 0 : (page[i] as number)
    sum = ((sum << 8) ^ (OGG_CRC[(sum >>> 24) ^ byte] as number)) >>> 0
  }
  if (sum !== view.getUint32(22, true)) return undefined
  return { flags: page[5] as number, stream: view.getUint32(14, true), length }
}

const FLAC_CRC_8 = crcTable(0x07, 8)
const FLAC_CRC_16 = crcTable(0x8005, 16)
const STREAM_INFO_BYTES = 34
const MOST_FRAME = 1 << 24

/**
 * FLAC (RFC 9639): blocks of metadata, and frames that each end with a checksum of their own. Whole: the frames make up as
 * many samples as the first block says.
 */
export const walkFlac: Walk = (bytes, start) => {
  if ((bigEndian(bytes, start + 4, 4) ?? 0) !== STREAM_INFO_BYTES) return undefined
  const info = Buffer.from(bytes.at(start + 8, STREAM_INFO_BYTES))
  if (info.length < STREAM_INFO_BYTES) return undefined
  const block = info.readUInt16BE(2)
  const samples = Number(info.readBigUInt64BE(10) & 0xfffffffffn)
  let at = start + 4
  for (let last = false, parts = 0; !last; parts++) {
    const head = bigEndian(bytes, at, 4)
    if (head === undefined || parts > 1000) return undefined
    last = head >= 2 ** 31
    at += 4 + (head & 0xffffff)
  }
  if (block === 0 || !isFlacFrame(bytes, at)) return undefined
  const frames = Math.ceil(samples / block)
  for (let frame = 0; frame < MOST_PARTS && (samples === 0 || frame < frames); frame++) {
    const end = isFlacFrame(bytes, at) ? flacFrameEnd(bytes, at) : undefined
    if (end === undefined) return { end: at, wholeness: samples === 0 && frame > 0 ? 'whole' : 'cut' }
    at = end
  }
  return { end: at, wholeness: 'whole' }
}

/** A frame's head (RFC 9639, section 9.1): its sync code, and a checksum over what stands between. */
function isFlacFrame(bytes: Bytes, at: number): boolean {
  const head = bytes.at(at, 16)
  if (head.length < 6 || head[0] !== 0xff || ((head[1] as number) & 0xfe) !== 0xf8) return false
  const [size, rate] = [(head[2] as number) >> 4, (head[2] as number) & 15]
  const coded = head[4] as number
  const numberBytes = coded < 0x80 ? 1 : coded >= 0xc0 && coded < 0xff ? Math.clz32(~(coded << 24)) : 0
  if (size === 0 || rate === 15 || numberBytes === 0) return false
  const length = 4 + numberBytes + (size === 6 ? 1 : size === 7 ? 2 : 0) + (rate === 12 ? 1 : rate > 12 ? 2 : 0)
  let sum = 0
  for (let i = 0; i < length; i++) sum = FLAC_CRC_8[sum ^ (head[i] as number)] as number
  return sum === head[length]
}

/** A frame ends where the checksum over all of it, its own included, comes to nothing, and a frame or something else follows. */
function flacFrameEnd(bytes: Bytes, start: number): number | undefined {
  let sum = 0
  for (let from = start; from < start + MOST_FRAME; ) {
    const piece = bytes.at(from, 1 << 16).slice()
    if (piece.length === 0) return undefined
    for (let i = 0; i < piece.length; i++) {
      sum = ((sum << 8) ^ (FLAC_CRC_16[((sum >> 8) ^ (piece[i] as number)) & 0xff] as number)) & 0xffff
      const end = from + i + 1
      // Sums come to nothing by chance: the next frame's head, or the end of sound, is looked for there.
      if (sum === 0 && end - start > 10 && (isFlacFrame(bytes, end) || !followsFrame(bytes, start, end))) return end
    }
    from += piece.length
  }
  return undefined
}

/** True where another frame of the same kind lies within reach behind `end`: then a sum of nothing there was chance. */
function followsFrame(bytes: Bytes, start: number, end: number): boolean {
  const mark = Buffer.from(bytes.at(start, 4)).toString('latin1')
  for (let at = end; ; ) {
    const found = bytes.find(mark, at, 1 << 17)
    if (found === undefined) return false
    if (isFlacFrame(bytes, found)) return true
    at = found + 1
  }
}

// Layer III of MPEG 1 and 2 (ISO/IEC 11172-3, 13818-3): kilobits a second and samples a second by their index.
const RATES_1 = [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320]
const RATES_2 = [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160]
const SAMPLES = [44_100, 48_000, 32_000]

// What stays the same from frame to frame: sync, version, layer, samples a second.
const LASTING = 0xfffe0c00

/** An MP3 frame: its length, and what it has in common with the others of its file; undefined: none begins there. */
function mp3Frame(bytes: Bytes, at: number): { length: number; kind: number } | undefined {
  const head = bigEndian(bytes, at, 4)
  // Sync, version (not the reserved one), layer III.
  if (head === undefined || head >>> 21 !== 0x7ff) return undefined
  const [version, layer] = [(head >>> 19) & 3, (head >>> 17) & 3]
  const [rate, sample] = [(head >>> 12) & 15, (head >>> 10) & 3]
  if (version === 1 || layer !== 1 || rate === 0 || rate === 15 || sample === 3) return undefined
  const isFirst = version === 3
  const kilobits = (isFirst ? RATES_1 : RATES_2)[rate] as number
  const hertz = (SAMPLES[sample] as number) / (isFirst ? 1 : version === 2 ? 2 : 4)
  const length = Math.floor(((isFirst ? 144_000 : 72_000) * kilobits) / hertz) + ((head >>> 9) & 1)
  return { length, kind: (head & LASTING) >>> 0 }
}

/** How frames of layer III begin, of MPEG 1 and 2, without a checksum of their own, which hardly any encoder writes. */
export const MP3_MARKS = [0xfb, 0xf3].map((second) => Buffer.of(0xff, second))

/** How long a tag is in front of the frames (ID3v2.3, section 3.1); undefined: it is none. */
function tagLength(bytes: Bytes, start: number): number | undefined {
  const head = bytes.at(start, 10)
  const [major = 0, minor = 0, , ...size] = head.subarray(3)
  if (head.length < 10 || major < 2 || major > 4 || minor > 9 || size.some((byte) => byte > 0x7f)) return undefined
  return 10 + size.reduce((sum, byte) => sum * 128 + byte, 0)
}

// Two frames may follow each other by chance. Files without a tag have nothing else that speaks for them.
const LEAST_WITHOUT_TAG = 20

/** MP3: perhaps a tag, frames one behind the other, perhaps a tag of 128 bytes. Nothing says how many frames there are. */
export const walkMp3: Walk = (bytes, start) => {
  const tag = latin(bytes, start, 3) === 'ID3' ? tagLength(bytes, start) : 0
  if (tag === undefined) return undefined
  const first = mp3Frame(bytes, start + tag)
  const least = tag > 0 ? LEAST_FRAMES : LEAST_WITHOUT_TAG
  let at = start + tag
  let frames = 0
  for (; frames < MOST_PARTS; frames++) {
    const frame = mp3Frame(bytes, at)
    if (!frame || frame.kind !== first?.kind) break
    if (at + frame.length > bytes.size) return frames >= least ? { end: bytes.size, wholeness: 'cut' } : undefined
    at += frame.length
  }
  if (frames < least) return undefined
  return { end: latin(bytes, at, 3) === 'TAG' ? Math.min(at + 128, bytes.size) : at, wholeness: 'whole' }
}

/** AIFF and AIFF-C (EA IFF 85): chunks whose sizes make up the size that the head names. */
export const walkAiff: Walk = (bytes, start) => {
  const size = bigEndian(bytes, start + 4, 4)
  if (size === undefined || !/^AIF[FC]$/.test(latin(bytes, start + 8, 4))) return undefined
  const end = start + 8 + size + (size % 2)
  const seen = new Set<string>()
  let unproven: Extent['unproven']
  let at = start + 12
  for (let parts = 0; parts < 1000 && at + 8 <= Math.min(end, bytes.size); parts++) {
    const name = latin(bytes, at, 4)
    const length = bigEndian(bytes, at + 4, 4)
    if (length === undefined || !/^[\x20-\x7e]{4}$/.test(name)) break
    if (name === 'SSND') unproven = { start: at + 8, end: at + 8 + length }
    seen.add(name)
    at += 8 + length + (length % 2)
  }
  if (!seen.has('COMM')) return undefined
  if (end > bytes.size) return { end: bytes.size, wholeness: 'cut' }
  return at === end && seen.has('SSND')
    ? { end, wholeness: 'whole', ...(unproven && { unproven }) }
    : { end: Math.min(at, end), wholeness: 'doubtful' }
}

/** What an Ogg file holds, by the first bytes of its first stream (RFC 7845, 5334). */
export function oggKind(bytes: Bytes, start: number): { mime: string; ending: string } {
  const first = latin(bytes, start + 27 + (littleEndian(bytes, start + 26, 1) ?? 0), 8)
  if (first.startsWith('OpusHead')) return { mime: 'audio/ogg', ending: 'opus' }
  return first.startsWith('\x80theora') ? { mime: 'video/ogg', ending: 'ogv' } : { mime: 'audio/ogg', ending: 'ogg' }
}
