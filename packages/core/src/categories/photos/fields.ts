import { z } from 'zod'
import { bin, flag, moment, number, text, whole } from '../field-values.js'

/** Fields of pictures and films of the library. */
export const libraryFields = z.strictObject({
  fileName: text,
  originalFileName: text,
  path: text,
  fileBytes: whole,
  uuid: text,
  width: whole,
  height: whole,
  takenAt: moment,
  /** False: the local time is given as if it were UTC. */
  zoneKnown: flag,
  albums: z.array(z.string()),
  favourite: flag,
  hidden: flag,
  /** Of films. */
  durationSeconds: number,
  /** Maker and model, where the library has no row of it. */
  camera: text.exactOptional(),
  /** Panoramas, screenshots and the like. */
  shape: text,
  burst: text,
  edited: flag,
  editedPath: text,
  /** The short video of a live photo. */
  filmPath: text,
  ...bin,
  latitude: number,
  longitude: number,
  contentMissing: z.boolean(),
})
