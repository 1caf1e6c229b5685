import { z } from 'zod'
import { attachment, bin, direction, flag, moment, text } from '../field-values.js'

const reaction = z.strictObject({ kind: z.string(), emoji: text, fromMe: z.boolean(), sender: text, when: moment })
/** An earlier wording. */
const version = z.strictObject({ at: moment, text: z.string() })

export const messageFields = z.strictObject({
  /** `event`: a join, a leave or a new name of a group. */
  kind: z.enum(['message', 'event']),
  event: text,
  eventTitle: text,
  /** The conversation's own id, as it is stored; null: it is lost. */
  conversation: text,
  conversationTitle: text,
  direction,
  /** As it is stored; null: the owner wrote it. */
  sender: text,
  senderName: text,
  recipients: z.array(z.string()),
  service: text,
  body: text,
  attachments: z.array(attachment),
  guid: text,
  deliveredAt: moment,
  readAt: moment,
  replyTo: text,
  reactions: z.array(reaction),
  versions: z.array(version),
  editedAt: moment,
  unsent: flag,
  ...bin,
})
