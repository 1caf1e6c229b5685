import { z } from 'zod'
import { flag, moment, text, whole } from '../field-values.js'

export const credentialFields = z.strictObject({
  kind: text,
  account: text,
  service: text,
  server: text,
  port: whole,
  protocol: text,
  label: text,
  note: text,
  accessGroup: text,
  createdAt: moment,
  modifiedAt: moment,
  /** Where the password lies in the source; it is never a field itself. */
  secretAt: text,
  hasSecret: flag,
})
