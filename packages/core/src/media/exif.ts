import exifr from 'exifr'
import type { ByteSource } from '../io/source.js'
import { readUpTo } from '../io/source.js'
import { asTiff, exifBlock } from './exif-block.js'

/** What a picture says about itself (EXIF, CIPA DC-008). Null: not said. */
export interface PictureMetadata {
  takenAt: Date | null
  /** False: the time has no zone and was read as UTC. */
  zoneKnown: boolean
  width: number | null
  height: number | null
  camera: string | null
  latitude: number | null
  longitude: number | null
}

// Metadata stands in front of the pixels in every JPEG that cameras write.
const HEAD_BYTES = 1 << 18
// In HEIC it may lie behind them. No camera writes larger ones.
const MOST_HEIC_BYTES = 1 << 26

/** Reads a picture's metadata. Null: there is none, or it is damaged. @throws FormatError where the bytes cannot be had */
export async function readPictureMetadata(source: ByteSource): Promise<PictureMetadata | null> {
  const head = await readUpTo(source, 0, HEAD_BYTES)
  const heic = isBoxed(head) ? await readUpTo(source, 0, MOST_HEIC_BYTES) : undefined
  try {
    const exif = heic ? await exifOfHeic(heic) : exifBlock(head)
    const tags = exif && (await exifr.parse(exif, { reviveValues: false, translateValues: false, gps: true }))
    return tags ? fromTags(tags) : null
  } catch {
    return null
  }
}

/** HEIC is made of boxes (ISO/IEC 14496-12), of which the first says so. */
const isBoxed = (head: Uint8Array): boolean => Buffer.from(head.subarray(4, 8)).toString('latin1') === 'ftyp'

/** The EXIF of a HEIC picture, which the image library finds where the reader of EXIF does not. */
async function exifOfHeic(bytes: Uint8Array): Promise<Uint8Array | undefined> {
  const { default: sharp } = await import('sharp')
  const { exif } = await sharp(bytes).metadata()
  return exif && asTiff(exif)
}

function fromTags(tags: Record<string, unknown>): PictureMetadata {
  const offset = textTag(tags.OffsetTimeOriginal) ?? textTag(tags.OffsetTime)
  return {
    takenAt: exifDate(tags.DateTimeOriginal ?? tags.CreateDate, offset),
    zoneKnown: offset !== null,
    width: numberTag(tags.ExifImageWidth),
    height: numberTag(tags.ExifImageHeight),
    camera: [textTag(tags.Make), textTag(tags.Model)].filter(Boolean).join(' ') || null,
    latitude: numberTag(tags.latitude),
    longitude: numberTag(tags.longitude),
  }
}

const textTag = (value: unknown) => (typeof value === 'string' && value.trim() !== '' ? value.trim() : null)
const numberTag = (value: unknown) => (typeof value === 'number' && Number.isFinite(value) ? value : null)

/** "2024:02:29 12:34:56" with an offset such as "+02:00"; without one the local time is read as UTC. */
export function exifDate(value: unknown, offset: string | null): Date | null {
  const match = /^(\d{4}):(\d\d):(\d\d) (\d\d:\d\d:\d\d)/.exec(textTag(value) ?? '')
  if (!match) return null
  const zone = offset && /^[+-]\d\d:\d\d$/.test(offset) ? offset : 'Z'
  const date = new Date(`${match[1]}-${match[2]}-${match[3]}T${match[4]}${zone}`)
  return Number.isNaN(date.getTime()) ? null : date
}
