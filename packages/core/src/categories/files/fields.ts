import { z } from 'zod'
import { bin, file, ownWords, text, whole } from '../field-values.js'

/** Fields of files that an application keeps, or that lie in a place of their own. */
export const placedFileFields = z.strictObject({
  ...file,
  /** The application's id. */
  app: text,
  mime: text,
  bytes: whole,
  ...bin,
  /** Of a file that was cut out of other bytes: what speaks for its being whole. */
  wholeness: text.exactOptional(),
  ...ownWords,
})

export const otherFileFields = z.strictObject(file)

/** Fields of contents that no list names. */
export const strayFields = z.strictObject({ fileName: z.string(), contentId: z.string(), kind: text, ...ownWords })
