import { crc32 } from 'node:zlib'
import type { Walk } from './types.js'
import { bigEndian, latin, littleEndian } from './window.js'

// A file of more segments than this, or a segment of more bytes, is made up.
const MOST_PARTS = 100_000
const MOST_ENTROPY = 200_000_000
const STEP = 1 << 16

/** JPEG (ITU-T T.81, annex B): segments up to the end of the image, with coded data behind each start of a scan. */
export const walkJpeg: Walk = (bytes, start) => {
  let at = start + 2
  let frames = 0
  let scans = 0
  for (let parts = 0; parts < MOST_PARTS; parts++) {
    const [prefix, code] = bytes.at(at, 2)
    if (prefix === undefined || code === undefined) return frames > 0 ? { end: at, wholeness: 'cut' } : undefined
    if (prefix !== 0xff) return frames > 0 ? { end: at, wholeness: scans > 0 ? 'cut' : 'doubtful' } : undefined
    if (code === 0xff) {
      at++
      continue
    }
    if (code === 0xd9) return scans > 0 && frames > 0 ? { end: at + 2, wholeness: 'whole' } : undefined
    // Neither a segment with a length nor a marker that may stand here.
    if (code === 0 || code === 0xd8 || code < 0xc0 || (code >= 0xd0 && code <= 0xd7)) {
      return frames > 0 ? { end: at, wholeness: 'cut' } : undefined
    }
    const length = bigEndian(bytes, at + 2, 2)
    if (length === undefined || length < 2) return frames > 0 ? { end: at, wholeness: 'cut' } : undefined
    if (isFrame(code)) {
      if (!saneFrame(bytes.at(at + 4, 6))) return undefined
      frames++
    }
    if (code === 0xda && frames === 0) return undefined
    at += 2 + length
    if (code !== 0xda) continue
    scans++
    const next = endOfScan(bytes, at)
    if (next === undefined) return { end: bytes.size, wholeness: 'cut' }
    at = next
  }
  return undefined
}

const isFrame = (code: number) => code >= 0xc0 && code <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(code)

/** Precision, height, width and number of components as pictures have them. */
function saneFrame([precision = 0, , , , , components = 0]: Uint8Array): boolean {
  return (precision === 8 || precision === 12) && components >= 1 && components <= 4
}

/** Where coded data ends: at the first marker that may not stand inside of it. */
function endOfScan(bytes: Parameters<Walk>[0], from: number): number | undefined {
  for (let at = from; at < from + MOST_ENTROPY; ) {
    const piece = bytes.at(at, STEP)
    if (piece.length < 2) return undefined
    for (let i = piece.indexOf(0xff); i >= 0 && i + 1 < piece.length; i = piece.indexOf(0xff, i + 1)) {
      const code = piece[i + 1] as number
      if (code !== 0 && code !== 0xff && !(code >= 0xd0 && code <= 0xd7)) return at + i
    }
    // The last byte is looked at again, with the one behind it.
    at += piece.length - 1
  }
  return undefined
}

/** PNG (W3C PNG, third edition, section 5): chunks with their checksums, from the header to the end. */
export const walkPng: Walk = (bytes, start) => {
  let at = start + 8
  let data = 0
  for (let parts = 0; parts < MOST_PARTS; parts++) {
    const length = bigEndian(bytes, at, 4)
    const name = latin(bytes, at + 4, 4)
    const cut = parts > 0 ? ({ end: Math.min(at, bytes.size), wholeness: 'cut' } as const) : undefined
    if (length === undefined || length > 0x7fffffff || !/^[A-Za-z]{4}$/.test(name)) return cut
    if (parts === 0 && (name !== 'IHDR' || length !== 13)) return undefined
    const sum = bigEndian(bytes, at + 8 + length, 4)
    if (sum === undefined) return cut
    if (checksum(bytes, at + 4, 4 + length) !== sum) return cut
    if (name === 'IDAT') data++
    at += 12 + length
    if (name === 'IEND') return { end: at, wholeness: data > 0 ? 'whole' : 'doubtful' }
  }
  return undefined
}

function checksum(bytes: Parameters<Walk>[0], from: number, length: number): number {
  let sum = 0
  for (let at = 0; at < length; at += STEP) sum = crc32(bytes.at(from + at, Math.min(STEP, length - at)), sum)
  return sum
}

/** GIF (GIF89a specification): blocks of images and extensions up to the trailer. */
export const walkGif: Walk = (bytes, start) => {
  const flags = bytes.at(start + 10, 1)[0]
  const width = littleEndian(bytes, start + 6, 2)
  if (flags === undefined || !width || !littleEndian(bytes, start + 8, 2)) return undefined
  let at = start + 13 + colours(flags)
  let images = 0
  for (let parts = 0; parts < MOST_PARTS; parts++) {
    const kind = bytes.at(at, 1)[0]
    if (kind === 0x3b) return images > 0 ? { end: at + 1, wholeness: 'whole' } : undefined
    if (kind === 0x21) at += 2
    else if (kind === 0x2c) {
      const local = bytes.at(at + 9, 1)[0]
      if (local === undefined) break
      at += 10 + colours(local) + 1
      images++
    } else break
    const end = endOfBlocks(bytes, at)
    if (end === undefined) return images > 0 ? { end: bytes.size, wholeness: 'cut' } : undefined
    at = end
  }
  return images > 0 ? { end: Math.min(at, bytes.size), wholeness: 'cut' } : undefined
}

const colours = (flags: number) => ((flags & 0x80) === 0 ? 0 : 3 * 2 ** ((flags & 7) + 1))

function endOfBlocks(bytes: Parameters<Walk>[0], from: number): number | undefined {
  for (let at = from, parts = 0; parts < 10 * MOST_PARTS; parts++) {
    const size = bytes.at(at, 1)[0]
    if (size === undefined) return undefined
    at += 1 + size
    if (size === 0) return at
  }
  return undefined
}
