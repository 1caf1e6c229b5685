import { z } from 'zod'
import { direction, flag, number, text } from '../field-values.js'

export const callFields = z.strictObject({
  /** Of a group: the first. */
  address: text,
  participants: z.array(z.string()),
  name: text,
  direction,
  answered: flag,
  durationSeconds: number,
  /** "phone", "audio", "video", or the id of an application. */
  service: text,
  uniqueId: text,
})
