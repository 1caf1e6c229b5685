import { z } from 'zod'
import { labelled, moment, text } from '../field-values.js'

const address = z.strictObject({ label: text, street: text, city: text, region: text, postcode: text, country: text })

export const contactFields = z.strictObject({
  givenName: text,
  middleName: text,
  familyName: text,
  prefix: text,
  suffix: text,
  nickname: text,
  organization: text,
  department: text,
  jobTitle: text,
  phones: z.array(labelled),
  emails: z.array(labelled),
  addresses: z.array(address),
  urls: z.array(labelled),
  related: z.array(labelled),
  note: text,
  /** A date; without a year `--MM-DD` (RFC 6350). */
  birthday: text,
  picture: z.strictObject({ base64: z.string(), mime: z.string() }).nullable(),
  uuid: text,
  modifiedAt: moment,
})
