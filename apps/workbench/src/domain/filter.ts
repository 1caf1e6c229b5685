import { z } from 'zod'
import { category, standing } from './core-values.js'
import { COMPARED_PARTS, type ComparedPart } from './difference.js'
import { ORDERS } from './findings-query.js'
import { day, timeZone } from './time.js'

/** Two sources and what a restore of the one onto the other does, as `12,15,wiped`. */
const compared = z
  .string()
  .regex(new RegExp(`^\\d+,\\d+,(${COMPARED_PARTS.join('|')})$`))
  .transform((text) => {
    const [first, second, part] = text.split(',')
    return { first: Number(first), second: Number(second), part: part as ComparedPart }
  })

/** What the Findings view shows, as it stands in its address. */
export const filter = z.object({
  category: category.default('photos'),
  /** Several, with commas between; none: all. */
  standings: z
    .string()
    .default('')
    .transform((text) => (text === '' ? [] : text.split(',')))
    .pipe(z.array(standing)),
  words: z.string().trim().max(200).default(''),
  conversation: z.string().max(600).nullable().default(null),
  fromDay: day.nullable().default(null),
  toDay: day.nullable().default(null),
  /** Where days begin and end (IANA). */
  zone: timeZone.default('UTC'),
  /** True: only findings that match the brief. */
  matching: z.stringbool().default(false),
  /** True: only findings in the tray. */
  inTray: z.stringbool().default(false),
  compared: compared.nullable().default(null),
  order: z.enum(ORDERS).default('newest'),
})

export type FindingFilter = z.output<typeof filter>

/** What the address of a Findings view asks for; its days are those of a zone. @throws ZodError */
export const filterIn = (address: string, zone: string): FindingFilter =>
  filter.parse({ ...Object.fromEntries(new URLSearchParams(address)), zone })
