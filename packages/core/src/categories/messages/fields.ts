import { z } from 'zod'
import { bin, conversational, flag, moment, text } from '../field-values.js'

const reaction = z.strictObject({ kind: z.string(), emoji: text, fromMe: z.boolean(), sender: text, when: moment })
/** An earlier wording. */
const version = z.strictObject({ at: moment, text: z.string() })

export const messageFields = z.strictObject({
  ...conversational,
  event: text,
  eventTitle: text,
  deliveredAt: moment,
  readAt: moment,
  reactions: z.array(reaction),
  versions: z.array(version),
  editedAt: moment,
  unsent: flag,
  ...bin,
})
