import { z } from 'zod'
import { flag, moment, text, whole } from '../field-values.js'

export const accountFields = z.strictObject({
  userName: text,
  description: text,
  type: text,
  owner: text,
  createdAt: moment,
  uuid: text,
})

export const networkFields = z.strictObject({ ssid: text, bssid: text, addedAt: moment, joinedAt: moment })

export const installedAppFields = z.strictObject({
  bundleId: z.string(),
  /** False: only its files are there. */
  installed: flag,
  files: whole,
  bytes: whole,
})
