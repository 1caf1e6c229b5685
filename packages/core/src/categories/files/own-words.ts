import type { ByteSource } from '../../io/source.js'
import { readPictureMetadata } from '../../media/exif.js'
import { readFilmMetadata } from '../../media/film.js'
import type { MediaWords } from '../../media/media-words.js'
import type { Sighting } from '../types.js'

/** What a picture or film says of itself. Null: nothing, or it is neither. */
export async function mediaWords(source: ByteSource, mime: string): Promise<MediaWords | null> {
  if (mime.startsWith('image/')) return readPictureMetadata(source)
  return mime.startsWith('video/') ? readFilmMetadata(source) : null
}

/** What a picture or film says of itself, as a sighting's time and those of its fields that are known. */
export async function ownWordsOf(source: ByteSource, mime: string): Promise<Pick<Sighting, 'when' | 'fields'>> {
  const said = await mediaWords(source, mime)
  if (!said) return { when: null, fields: {} }
  const { takenAt, zoneKnown, latitude, longitude, width, height, camera, durationSeconds } = said
  const when = takenAt?.toISOString() ?? null
  return {
    when,
    fields: {
      ...(when && { takenAt: when, zoneKnown }),
      ...(latitude !== null && { latitude, longitude }),
      ...(width !== null && { width, height }),
      ...(camera !== null && { camera }),
      ...(durationSeconds !== null && { durationSeconds }),
    },
  }
}
