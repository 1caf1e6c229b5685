import { z } from 'zod'
import { attachment, direction, flag, text } from '../field-values.js'

export const chatFields = z.strictObject({
  /** The application's id. */
  app: z.string(),
  kind: z.enum(['message', 'event']),
  conversation: text,
  conversationTitle: text,
  direction,
  sender: text,
  senderName: text,
  recipients: z.array(z.string()),
  service: text,
  body: text,
  attachments: z.array(attachment),
  guid: text,
  replyTo: text,
  withdrawn: flag,
})
