import type { ByteSource } from '../../io/source.js'
import { readPictureMetadata } from '../../media/exif.js'
import type { Sighting } from '../types.js'

/** What a picture says of itself, as a sighting's time and fields; nothing of what is no picture, or says nothing. */
export async function ownWordsOf(source: ByteSource, mime: string): Promise<Pick<Sighting, 'when' | 'fields'>> {
  const said = mime.startsWith('image/') ? await readPictureMetadata(source) : null
  if (!said) return { when: null, fields: {} }
  const { takenAt, zoneKnown, latitude, longitude } = said
  const when = takenAt?.toISOString() ?? null
  return {
    when,
    fields: { ...(when && { takenAt: when, zoneKnown }), ...(latitude !== null && { latitude, longitude }) },
  }
}
