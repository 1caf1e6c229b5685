import type { ByteSource } from '../io/source.js'
import { readUpTo } from '../io/source.js'
import { cameraOf, type MediaWords, placeOf } from './media-words.js'

/**
 * What films of boxes say about themselves (ISO/IEC 14496-12; QuickTime File Format Specification for `keys` and user
 * data). Libraries for such files build tables as long as a file says they are; here only a few small boxes are read, from
 * wherever they lie, so that the cost does not go by what a stranger's bytes promise.
 */

/** A box: where its content lies. */
interface Box {
  type: string
  start: number
  end: number
}

const MOST_BOXES = 4096
const MOST_CONTENT = 1 << 16
// Seconds from 1904 to 1970, in UTC (ISO/IEC 14496-12, 8.2.2.3).
const FROM_1904 = 2_082_844_800

/** Reads a film's metadata. Null: it is no film of boxes, or damaged. @throws FormatError where bytes cannot be had */
export async function readFilmMetadata(source: ByteSource): Promise<MediaWords | null> {
  const boxes = new Boxes(source)
  const moov = await boxes.first({ type: '', start: 0, end: source.size }, 'moov')
  if (!moov) return null
  const words = await keyedWords(boxes, moov)
  const { madeAt, seconds } = await movieHeader(boxes, moov)
  const said = filmDate(words.get('creationdate'))
  return {
    takenAt: said?.at ?? madeAt,
    // A movie header's time is in UTC.
    zoneKnown: said ? said.zoneKnown : madeAt !== null,
    ...(await pictureSize(boxes, moov)),
    camera: cameraOf(words.get('make') ?? null, words.get('model') ?? null),
    ...filmPlace(words.get('location.ISO6709')),
    durationSeconds: seconds,
  }
}

/** Walks over boxes; each film has so many of them that are looked at. */
class Boxes {
  #left = MOST_BOXES

  constructor(readonly source: ByteSource) {}

  /** The boxes inside of another, or of the whole file. Ends at one that cannot be. */
  async *of({ start, end }: Pick<Box, 'start' | 'end'>): AsyncGenerator<Box> {
    for (let at = start; at + 8 <= end && this.#left-- > 0; ) {
      const head = await this.#bytes(at, 16)
      if (head.length < 8) return
      const short = head.readUInt32BE(0)
      // 1: a length of 64 bits follows; 0: up to the end (ISO/IEC 14496-12, 4.2).
      const isLong = short === 1 && head.length === 16
      const size = isLong ? Number(head.readBigUInt64BE(8)) : short === 0 ? end - at : short
      const headBytes = isLong ? 16 : 8
      if (size < headBytes || at + size > end) return
      yield { type: head.toString('latin1', 4, 8), start: at + headBytes, end: at + size }
      at += size
    }
  }

  async first(inside: Box, ...path: string[]): Promise<Box | undefined> {
    let box: Box | undefined = inside
    for (const type of path) {
      let found: Box | undefined
      if (box)
        for await (const one of this.of(box))
          if (one.type === type) {
            found = one
            break
          }
      box = found
    }
    return box
  }

  content(box: Box): Promise<Buffer> {
    return this.#bytes(box.start, Math.min(box.end - box.start, MOST_CONTENT))
  }

  async #bytes(at: number, length: number): Promise<Buffer> {
    const bytes = await readUpTo(this.source, at, at + length)
    return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }
}

/** `mvhd` (8.2.2): when it was made, and how long it is. Version 1 has longer numbers. */
async function movieHeader(boxes: Boxes, moov: Box): Promise<{ madeAt: Date | null; seconds: number | null }> {
  const box = await boxes.first(moov, 'mvhd')
  const bytes = box ? await boxes.content(box) : Buffer.alloc(0)
  const isLong = bytes[0] === 1
  if (bytes.length < (isLong ? 32 : 20)) return { madeAt: null, seconds: null }
  const made = isLong ? Number(bytes.readBigUInt64BE(4)) : bytes.readUInt32BE(4)
  const scale = bytes.readUInt32BE(isLong ? 20 : 12)
  const length = isLong ? Number(bytes.readBigUInt64BE(24)) : bytes.readUInt32BE(16)
  const madeAt = new Date((made - FROM_1904) * 1000)
  return {
    // Earlier ones are clocks that were never set.
    madeAt: madeAt.getTime() > 0 && !Number.isNaN(madeAt.getTime()) ? madeAt : null,
    seconds: scale > 0 && length > 0 && length < 2 ** 52 ? length / scale : null,
  }
}

/** `tkhd` (8.3.2) of the first track that is seen: its size, turned as its matrix says. */
async function pictureSize(boxes: Boxes, moov: Box): Promise<Pick<MediaWords, 'width' | 'height'>> {
  for await (const track of boxes.of(moov)) {
    const header = track.type === 'trak' ? await boxes.first(track, 'tkhd') : undefined
    const bytes = header ? await boxes.content(header) : Buffer.alloc(0)
    const matrix = bytes[0] === 1 ? 52 : 40
    if (bytes.length < matrix + 44) continue
    // Of 16.16 bits.
    const [width, height] = [bytes.readUInt32BE(matrix + 36) >>> 16, bytes.readUInt32BE(matrix + 40) >>> 16]
    if (width === 0 || height === 0) continue
    const isTurned = bytes.readInt32BE(matrix) === 0 && bytes.readInt32BE(matrix + 4) !== 0
    return isTurned ? { width: height, height: width } : { width, height }
  }
  return { width: null, height: null }
}

const KEY_PREFIX = 'com.apple.quicktime.'
const MOST_KEYS = 200

/** What stands under keys (`moov/meta/keys` and `ilst`), else in the older user data: the place alone. */
async function keyedWords(boxes: Boxes, moov: Box): Promise<Map<string, string>> {
  const words = new Map<string, string>()
  const meta = await boxes.first(moov, 'meta')
  if (meta) {
    // In the standard's form a version stands before the boxes inside; in QuickTime's it does not.
    const versioned = (await boxes.content(meta)).toString('latin1', 4, 8) !== 'hdlr'
    const inside = { ...meta, start: meta.start + (versioned ? 4 : 0) }
    const names = keyNames(await boxes.content((await boxes.first(inside, 'keys')) ?? EMPTY))
    for await (const item of boxes.of((await boxes.first(inside, 'ilst')) ?? EMPTY)) {
      const name = names[Buffer.from(item.type, 'latin1').readUInt32BE(0) - 1]
      const data = name && (await boxes.first(item, 'data'))
      // A type and a locale stand before the value.
      if (name && data) words.set(name, textOf((await boxes.content(data)).subarray(8)))
    }
  }
  const place = await boxes.first(moov, 'udta', '\xa9xyz')
  // A length and a language stand before the text.
  if (place && !words.has('location.ISO6709'))
    words.set('location.ISO6709', textOf((await boxes.content(place)).subarray(4)))
  return words
}
const EMPTY: Box = { type: '', start: 0, end: 0 }

function keyNames(bytes: Buffer): string[] {
  const names: string[] = []
  for (let at = 8; at + 8 <= bytes.length && names.length < MOST_KEYS; ) {
    const size = bytes.readUInt32BE(at)
    if (size < 8 || at + size > bytes.length) break
    const name = bytes.toString('latin1', at + 8, at + size)
    names.push(name.startsWith(KEY_PREFIX) ? name.slice(KEY_PREFIX.length) : '')
    at += size
  }
  return names
}

const textOf = (bytes: Buffer): string => bytes.toString('utf8').replace(/\0+$/, '').trim()

/** ISO 8601 as cameras write it: "2026-05-01T10:00:00+0200". */
function filmDate(text: string | undefined): { at: Date; zoneKnown: boolean } | null {
  const match = /^(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d)(?:\.\d+)?(Z|[+-]\d\d:?\d\d)?$/.exec(text ?? '')
  if (!match) return null
  const zone = match[2]?.replace(/^([+-]\d\d)(\d\d)$/, '$1:$2')
  const at = new Date(`${match[1]}${zone ?? 'Z'}`)
  return Number.isNaN(at.getTime()) ? null : { at, zoneKnown: zone !== undefined }
}

/** ISO 6709 in its form of decimal degrees: "+47.5000+009.7000+410.000/". */
function filmPlace(text: string | undefined): Pick<MediaWords, 'latitude' | 'longitude'> {
  const match = /^([+-]\d{2}(?:\.\d+)?)([+-]\d{3}(?:\.\d+)?)/.exec(text ?? '')
  return match ? placeOf(Number(match[1]), Number(match[2])) : { latitude: null, longitude: null }
}
