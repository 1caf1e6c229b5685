import { DOMParser, type Element } from '@xmldom/xmldom'
import { cameraOf, type MediaWords, placeOf } from './media-words.js'

/** Namespaces of XMP (ISO 16684-1; Adobe XMP Specification Part 2) that say when, where and by what a picture was taken. */
const EXIF = 'http://ns.adobe.com/exif/1.0/'
const TIFF = 'http://ns.adobe.com/tiff/1.0/'
const PHOTOSHOP = 'http://ns.adobe.com/photoshop/1.0/'
const XMP = 'http://ns.adobe.com/xap/1.0/'
const RDF = 'http://www.w3.org/1999/02/22-rdf-syntax-ns#'

/** The time of the picture comes before that of its file. */
const DATES = [
  [EXIF, 'DateTimeOriginal'],
  [PHOTOSHOP, 'DateCreated'],
  [XMP, 'CreateDate'],
] as const

// Packets are a few KB; longer ones hold previews and histories.
const MOST_BYTES = 1 << 18

/** What a packet of XMP says. Null: it cannot be read. */
export function readXmp(packet: Uint8Array): Omit<MediaWords, 'width' | 'height' | 'durationSeconds'> | null {
  if (packet.length > MOST_BYTES) return null
  try {
    const text = Buffer.from(packet).toString('utf8').replace(/\0+$/, '').trim()
    const document = new DOMParser({ onError: () => {} }).parseFromString(text, 'text/xml')
    const about = [...document.getElementsByTagNameNS(RDF, 'Description')]
    const value = (namespace: string, name: string) => valueIn(about, namespace, name)
    const taken = DATES.map(([namespace, name]) => xmpDate(value(namespace, name))).find((one) => one !== null)
    const latitude = degrees(value(EXIF, 'GPSLatitude'), 'N', 'S')
    const longitude = degrees(value(EXIF, 'GPSLongitude'), 'E', 'W')
    return {
      takenAt: taken?.at ?? null,
      zoneKnown: taken?.zoneKnown ?? false,
      camera: cameraOf(value(TIFF, 'Make'), value(TIFF, 'Model')),
      ...(latitude === null || longitude === null ? { latitude: null, longitude: null } : placeOf(latitude, longitude)),
    }
  } catch {
    return null
  }
}

/** A property stands as an attribute or as an element. */
function valueIn(about: readonly Element[], namespace: string, name: string): string | null {
  for (const one of about) {
    const said =
      one.getAttributeNS(namespace, name) || one.getElementsByTagNameNS(namespace, name)[0]?.textContent?.trim()
    if (said) return said
  }
  return null
}

/** A date of XMP: ISO 8601 with or without time, seconds and zone. Without a time it says nothing of when in the day. */
function xmpDate(text: string | null): { at: Date; zoneKnown: boolean } | null {
  const match = /^(\d{4}-\d\d-\d\dT\d\d:\d\d)(:\d\d)?(?:\.\d+)?(Z|[+-]\d\d:\d\d)?$/.exec(text ?? '')
  if (!match) return null
  const [, minute, second = ':00', zone] = match
  const at = new Date(`${minute}${second}${zone ?? 'Z'}`)
  return Number.isNaN(at.getTime()) ? null : { at, zoneKnown: zone !== undefined }
}

/** "47,30.5N" or "47,30,30N": degrees, minutes, seconds. */
function degrees(text: string | null, positive: string, negative: string): number | null {
  const match = /^(\d{1,3}),(\d{1,2}(?:\.\d+)?)(?:,(\d{1,2}(?:\.\d+)?))?([NSEW])$/.exec(text ?? '')
  if (!match || (match[4] !== positive && match[4] !== negative)) return null
  const size = Number(match[1]) + Number(match[2]) / 60 + Number(match[3] ?? 0) / 3600
  return match[4] === negative ? -size : size
}
