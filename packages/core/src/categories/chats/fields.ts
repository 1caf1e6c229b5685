import { z } from 'zod'
import { conversational, flag } from '../field-values.js'

export const chatFields = z.strictObject({
  /** The application's id. */
  app: z.string(),
  ...conversational,
  withdrawn: flag,
})
