import { z } from 'zod'
import { attachment, bin, flag, moment, text } from '../field-values.js'

const paragraph = z.strictObject({
  text: z.string(),
  style: z.string(),
  /** Of a line that can be ticked. */
  done: z.boolean(),
  /** The identifier of what hangs here in the place of text. */
  attached: z.string().exactOptional(),
  /** Of a table: its cells. */
  rows: z.array(z.array(z.string())).exactOptional(),
})

export const noteFields = z.strictObject({
  title: text,
  /** The whole text with its first line. */
  body: text,
  paragraphs: z.array(paragraph),
  folder: text,
  locked: flag,
  attachments: z.array(attachment),
  createdAt: moment,
  modifiedAt: moment,
  uuid: text,
  ...bin,
})
