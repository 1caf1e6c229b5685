import exifr from 'exifr'
import type { Metadata } from 'sharp'
import type { ByteSource } from '../io/source.js'
import { readUpTo } from '../io/source.js'
import { asTiff, exifBlock } from './exif-block.js'
import { cameraOf, type MediaWords } from './media-words.js'
import { readXmp } from './xmp.js'

// Metadata stands in front of the pixels in every JPEG that cameras write.
const HEAD_BYTES = 1 << 18
// In HEIC it may lie behind them. No camera writes larger ones.
const MOST_HEIC_BYTES = 1 << 26

/**
 * Reads what a picture says of itself: EXIF (CIPA DC-008) first, XMP where that says nothing. Null: there is none, or it is
 * damaged. @throws FormatError where the bytes cannot be had
 */
export async function readPictureMetadata(source: ByteSource): Promise<MediaWords | null> {
  const head = await readUpTo(source, 0, HEAD_BYTES)
  const bytes = isBoxed(head) ? await readUpTo(source, 0, MOST_HEIC_BYTES) : head
  const image = await imageHeader(bytes)
  const exif = exifBlock(head) ?? (image?.exif && asTiff(image.exif))
  const tags = exif && (await tagsOf(exif))
  if (!image && !tags) return null
  const said = tags ? fromTags(tags) : NOTHING
  const more = image?.xmp && (said.takenAt === null || said.latitude === null) ? readXmp(image.xmp) : null
  const place = said.latitude === null && more ? more : said
  return {
    ...(said.takenAt === null && more?.takenAt ? more : said),
    ...sizeOf(image, tags, isBoxed(head)),
    camera: said.camera ?? more?.camera ?? null,
    latitude: place.latitude,
    longitude: place.longitude,
    durationSeconds: null,
  }
}

/** HEIC is made of boxes (ISO/IEC 14496-12), of which the first says so. */
const isBoxed = (head: Uint8Array): boolean => Buffer.from(head.subarray(4, 8)).toString('latin1') === 'ftyp'

/** What the image library finds in front of the pixels, of HEIC also where the reader of EXIF finds nothing. */
async function imageHeader(bytes: Uint8Array): Promise<Metadata | undefined> {
  const { default: sharp } = await import('sharp')
  try {
    return await sharp(bytes, { failOn: 'none' }).metadata()
  } catch {
    return undefined
  }
}

async function tagsOf(exif: Uint8Array): Promise<Record<string, unknown> | undefined> {
  try {
    return await exifr.parse(exif, { reviveValues: false, translateValues: false, gps: true })
  } catch {
    return undefined
  }
}

/** Boxed pictures are turned by their boxes, and not by what EXIF says of it (ISO/IEC 23008-12, annex A). */
function sizeOf(image: Metadata | undefined, tags: Record<string, unknown> | undefined, boxed: boolean) {
  const width = image?.width ?? numberTag(tags?.ExifImageWidth)
  const height = image?.height ?? numberTag(tags?.ExifImageHeight)
  // 5 to 8 lie on their side.
  const isTurned = !boxed && (image?.orientation ?? numberTag(tags?.Orientation) ?? 1) >= 5
  return isTurned ? { width: height, height: width } : { width, height }
}

const NOTHING = { takenAt: null, zoneKnown: false, camera: null, latitude: null, longitude: null }

function fromTags(tags: Record<string, unknown>): Omit<MediaWords, 'width' | 'height' | 'durationSeconds'> {
  const offset = textTag(tags.OffsetTimeOriginal) ?? textTag(tags.OffsetTime)
  return {
    takenAt: exifDate(tags.DateTimeOriginal ?? tags.CreateDate, offset),
    zoneKnown: offset !== null,
    camera: cameraOf(textTag(tags.Make), textTag(tags.Model)),
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
