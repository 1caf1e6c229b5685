import { z } from 'zod'

/** Units and start of the times that databases of applications hold. */
export const TIME_FORMS = ['cocoa', 'unix-seconds', 'unix-milliseconds', 'unix-microseconds', 'webkit'] as const

const column = z.string().min(1).max(100).regex(/^\w+$/, 'a column name of letters, digits and _')
const table = z.string().min(1).max(100).regex(/^\w+$/, 'a table name of letters, digits and _')
const numbers = z.array(z.number().int()).max(50).default([])

/**
 * Where a third-party application keeps its conversations: which tables and columns are conversation, message, sender,
 * time and attachment. Described in docs/mapping-profiles.md. Columns that a database lacks are read as empty.
 */
export const profileSchema = z.strictObject({
  version: z.literal(1),
  id: z.string().regex(/^[a-z0-9-]{1,60}$/, 'small letters, digits and hyphens'),
  name: z.string().trim().min(1).max(100),
  /** The application's own id, which its sightings carry. */
  app: z.string().trim().min(1).max(200),
  /** Where the database lies; `*` in a domain or path stands for anything but "/". */
  stores: z
    .array(z.strictObject({ domain: z.string().min(1).max(300), path: z.string().min(1).max(500) }))
    .min(1)
    .max(20),
  messages: z.strictObject({
    table,
    /** Columns of the message. */
    text: column,
    sentAt: column,
    time: z.enum(TIME_FORMS),
    /** Not 0: the owner wrote it. */
    fromMe: column,
    /** Holds the conversation's key. */
    conversation: column,
    id: column.optional(),
    /** The sender's address, or the key of a member. */
    sender: column.optional(),
    member: column.optional(),
    replyTo: column.optional(),
    /** A column whose values tell what is no ordinary message. */
    kind: z.strictObject({ column, events: numbers, withdrawn: numbers }).optional(),
  }),
  conversations: z
    .strictObject({
      table,
      /** The column that messages name; absent: the rowid. */
      key: column.optional(),
      id: column.optional(),
      title: column.optional(),
    })
    .optional(),
  members: z
    .strictObject({ table, conversation: column.optional(), address: column, name: column.optional() })
    .optional(),
  attachments: z
    .strictObject({
      /** Absent: the columns are the message's own. */
      table: table.optional(),
      /** In that table: holds the message's rowid. */
      message: column.optional(),
      path: column,
      /** What stands before the path in the database's own domain. */
      folder: z.string().max(300).default(''),
      name: column.optional(),
      bytes: column.optional(),
    })
    .refine((one) => (one.table === undefined) === (one.message === undefined), {
      message: 'a table of attachments needs the column that names the message, and only then',
    })
    .optional(),
})

export type Profile = z.infer<typeof profileSchema>

/** Reads a profile from its JSON. @throws Error with words that name each wrong place */
export function parseProfile(text: string): Profile {
  const parsed = profileSchema.safeParse(JSON.parse(text))
  if (!parsed.success) throw new Error(z.prettifyError(parsed.error))
  return parsed.data
}
