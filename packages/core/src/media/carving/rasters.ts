import type { Bytes, Walk } from './types.js'
import { bigEndian, littleEndian } from './window.js'

/** Bitmaps: the head's sizes make up the file's. Points have no checksum. */
export const walkBitmap: Walk = (bytes, start) => {
  const head = Buffer.from(bytes.at(start, 54))
  if (head.length < 54 || head.toString('latin1', 0, 2) !== 'BM') return undefined
  const size = head.readUInt32LE(2)
  const [points, width, height] = [head.readUInt32LE(10), head.readInt32LE(18), Math.abs(head.readInt32LE(22))]
  // Two bytes zero, and a second head of a length that is in use.
  if (head.readUInt32LE(6) !== 0 || ![40, 108, 124].includes(head.readUInt32LE(14)) || points > 4096) return undefined
  const [planes, depth, packing] = [head.readUInt16LE(26), head.readUInt16LE(28), head.readUInt32LE(30)]
  if (planes !== 1 || ![8, 16, 24, 32].includes(depth) || width <= 0 || height === 0) return undefined
  // Rows are padded to four bytes.
  const needed = points + Math.ceil((width * depth) / 32) * 4 * height
  if (packing === 1 || packing === 2 || size < needed || size > needed + 4096) return undefined
  if (start + size > bytes.size) return { end: bytes.size, wholeness: 'cut' }
  return { end: start + size, wholeness: 'whole', unproven: { start: start + points, end: start + size } }
}

// Tags of TIFF (6.0, section 8; technical note 1 for directories inside; DNG for its version).
const STRIPS = [273, 279] as const
const TILES = [324, 325] as const
const INSIDE = 330
const DNG_VERSION = 50_706
const MOST_DIRECTORIES = 64
const MOST_ENTRIES = 512
const MOST_VALUES = 100_000
const BYTES_OF: Record<number, number> = {
  1: 1,
  2: 1,
  3: 2,
  4: 4,
  5: 8,
  6: 1,
  7: 1,
  8: 2,
  9: 4,
  10: 8,
  11: 4,
  12: 8,
  13: 4,
}

/** TIFF and camera raw files: up to the last byte that its directories name. Whole: all of it is there, points among them. */
export const walkTiff: Walk = (bytes, start) => {
  const file = new Tiff(bytes, start)
  const end = file.walk()
  if (end === undefined || !file.hasPoints) return undefined
  return end > bytes.size ? { end: bytes.size, wholeness: 'cut' } : { end, wholeness: 'whole' }
}

export function tiffKind(bytes: Bytes, start: number): { mime: string; ending: string } {
  const file = new Tiff(bytes, start)
  file.walk()
  return file.isRaw ? { mime: 'image/x-adobe-dng', ending: 'dng' } : { mime: 'image/tiff', ending: 'tif' }
}

class Tiff {
  hasPoints = false
  isRaw = false
  #end: number
  readonly #number: (at: number, length: number) => number | undefined

  constructor(
    bytes: Bytes,
    readonly start: number,
  ) {
    const isLittle = bytes.at(start, 1)[0] === 0x49
    this.#number = (at, length) => (isLittle ? littleEndian : bigEndian)(bytes, start + at, length)
    this.#end = start + 8
  }

  /** Where the file ends; undefined: its directories are none. */
  walk(): number | undefined {
    const waiting = [this.#number(4, 4) ?? 0]
    const seen = new Set<number>()
    for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
      if (next === 0) continue
      if (next < 8 || seen.has(next) || seen.size >= MOST_DIRECTORIES) return undefined
      seen.add(next)
      const count = this.#number(next, 2)
      if (count === undefined) return this.hasPoints ? this.#end : undefined
      if (count === 0 || count > MOST_ENTRIES || !this.#directory(next + 2, count, waiting)) return undefined
      const follows = next + 2 + 12 * count
      this.#reach(follows + 4)
      waiting.push(this.#number(follows, 4) ?? 0)
    }
    return seen.size > 0 ? this.#end : undefined
  }

  #reach(end: number): void {
    this.#end = Math.max(this.#end, this.start + end)
  }

  /** False where an entry cannot be. */
  #directory(at: number, count: number, waiting: number[]): boolean {
    const lists = new Map<number, number[]>()
    let before = 0
    for (let i = 0; i < count; i++) {
      const entry = at + 12 * i
      const [tag, type, values] = [this.#number(entry, 2), this.#number(entry + 2, 2), this.#number(entry + 4, 4)]
      const each = BYTES_OF[type ?? 0]
      // Tags stand in ascending order (section 2).
      if (tag === undefined || values === undefined || each === undefined || tag < before) return false
      before = tag
      const place = values * each > 4 ? (this.#number(entry + 8, 4) ?? 0) : entry + 8
      if (values * each > 4) this.#reach(place + values * each)
      if (tag === DNG_VERSION) this.isRaw = true
      if (![...STRIPS, ...TILES, INSIDE].includes(tag)) continue
      if (values > MOST_VALUES) return false
      lists.set(
        tag,
        Array.from({ length: values }, (_, n) => this.#number(place + n * each, Math.min(each, 4)) ?? 0),
      )
    }
    for (const [offsets, lengths] of [STRIPS, TILES])
      for (const [i, offset] of (lists.get(offsets) ?? []).entries()) {
        this.hasPoints = true
        this.#reach(offset + (lists.get(lengths)?.[i] ?? 0))
      }
    waiting.push(...(lists.get(INSIDE) ?? []).slice(0, MOST_DIRECTORIES))
    return true
  }
}
