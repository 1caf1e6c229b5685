import { isTimeZone } from '@lumbrin/core/io/time-zone'
import { z } from 'zod'

/** A moment: a Date on the server, and ISO 8601 text in UTC on its way to the browser. */
export const time = z.codec(z.iso.datetime().meta({ id: 'Moment' }), z.date(), {
  decode: (text) => new Date(text),
  encode: (date) => date.toISOString(),
})

/** A calendar day such as 2026-11-14. */
export const day = z.iso.date('a date such as 2026-11-14')

/** A time zone by its IANA name, such as Europe/Lisbon. */
export const timeZone = z.string().refine(isTimeZone, 'a time zone such as Europe/Lisbon')

/** A calendar month such as 2026-11. */
export const month = z.string().regex(/^\d{4}-(0[1-9]|1[0-2])$/, 'a month such as 2026-11')
