import { z } from 'zod'
import { bin, moment, number, text, whole } from '../field-values.js'

export const voiceMemoFields = z.strictObject({
  title: text,
  durationSeconds: number,
  recordedAt: moment,
  fileName: text,
  uuid: text,
  contentMissing: z.boolean(),
  ...bin,
})

export const voicemailFields = z.strictObject({
  sender: text,
  senderName: text,
  durationSeconds: number,
  receivedAt: moment,
  remoteId: whole,
  contentMissing: z.boolean(),
  ...bin,
})
