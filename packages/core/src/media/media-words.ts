/** What a picture or film says about itself. Null: not said. */
export interface MediaWords {
  takenAt: Date | null
  /** False: the time has no zone and was read as UTC. */
  zoneKnown: boolean
  /** Pixels, as it is shown: turned upright. */
  width: number | null
  height: number | null
  camera: string | null
  /** Degrees (WGS 84). */
  latitude: number | null
  longitude: number | null
  /** Of films. */
  durationSeconds: number | null
}

/** Maker and model, as far as they are known. */
export function cameraOf(make: string | null, model: string | null): string | null {
  return [make, model].filter(Boolean).join(' ') || null
}

/** A coordinate that is on Earth, and not the zero point that unset ones stand at. */
export function placeOf(latitude: number, longitude: number): Pick<MediaWords, 'latitude' | 'longitude'> {
  const isPlace = Math.abs(latitude) <= 90 && Math.abs(longitude) <= 180 && (latitude !== 0 || longitude !== 0)
  return isPlace ? { latitude, longitude } : { latitude: null, longitude: null }
}
