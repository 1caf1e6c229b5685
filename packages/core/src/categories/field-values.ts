import { z } from 'zod'

/*
 * Values of fields. Absent ones are null, never invented: docs/truth.md. Whole schemas stand in the folders of their
 * categories; they are held against every sighting of the demo's sources by a test.
 */

export const text = z.string().nullable()
export const flag = z.boolean().nullable()
export const number = z.number().nullable()
export const whole = z.number().int().nullable()
/** A moment, ISO 8601 in UTC. */
export const moment = z.iso.datetime().nullable()
/** A moment, or a plain date where an item has no time of day. */
export const momentOrDay = z.union([z.iso.datetime(), z.iso.date()]).nullable()
/** Which way a message or a call went. */
export const direction = z.enum(['in', 'out']).nullable()

/** Of what may lie in a bin; days are counted from the source's own date. Absent where no bin is known. */
export const bin = { binnedAt: moment.exactOptional(), daysLeft: whole.exactOptional() }

/** A file that hangs on an item; a null path: the source does not list it. */
export const attachment = z.strictObject({
  name: z.string(),
  mime: z.string(),
  bytes: z.number().int(),
  sha256: text,
  domain: z.string(),
  path: text,
})

/** What messages of every application have. */
export const conversational = {
  /** `event`: a join, a leave or a new name of a group. */
  kind: z.enum(['message', 'event']),
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
  replyTo: text,
}

/** A word of the owner's with a value, such as "home" and a number. */
export const labelled = z.strictObject({ label: text, value: z.string() })

/** What a picture or film says of itself, where no library says it. */
export const ownWords = {
  takenAt: moment.exactOptional(),
  /** False: the local time is given as if it were UTC. */
  zoneKnown: z.boolean().exactOptional(),
  latitude: number.exactOptional(),
  longitude: number.exactOptional(),
  width: whole.exactOptional(),
  height: whole.exactOptional(),
  camera: text.exactOptional(),
  durationSeconds: number.exactOptional(),
}

/** Where a file lies in its source. */
export const file = {
  fileName: z.string(),
  path: z.string(),
  domain: z.string(),
  modifiedAt: moment.exactOptional(),
  createdAt: moment.exactOptional(),
  contentMissing: z.boolean(),
}

/** Fields of a file that hangs on an item of another category. */
export const attachmentFields = z.strictObject({
  fileName: z.string(),
  mime: z.string(),
  bytes: z.number().int(),
  domain: z.string(),
  path: text,
  /** The item's own id. */
  parent: text,
  conversation: text,
  sender: text,
  sentAt: moment,
  ...bin,
  contentMissing: z.boolean(),
})
