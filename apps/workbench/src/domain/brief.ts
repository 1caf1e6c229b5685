import { CATEGORY_IDS } from '@lumbrin/core/categories/registry'
import type { Sought } from '@lumbrin/core/findings/match'
import { endOfDay, startOfDay } from '@lumbrin/core/io/time-zone'
import { z } from 'zod'
import { DEVICE_STATES, SYNCING } from './labels.js'
import { timeZone } from './time.js'

// Looser than a calendar: briefs that were stored before stay readable.
const day = z.string().regex(/^\d{4}-\d{2}-\d{2}$/, 'a date such as 2026-11-14')

const emptyAsNull = <T extends z.ZodType>(schema: T) =>
  z.preprocess((value) => (value === '' ? null : value), schema.nullable().default(null))

/** Briefs that were stored before 2026-12 hold words where there are codes now: "in use" for "in-use". */
const code = <T extends z.ZodType>(schema: T) =>
  z.preprocess((value) => (typeof value === 'string' ? value.replaceAll(' ', '-') : value), schema)

/** What is sought, for whom, and under which conditions. Stored as JSON with its job. */
export const brief = z
  .object({
    owner: z.string().trim().min(1, 'Whose device is it?').max(200),
    /** How the owner is reached. */
    contact: z.string().trim().max(200).default(''),
    device: z.string().trim().max(200).default(''),
    categories: z.array(z.enum(CATEGORY_IDS)).default([]),
    lostFrom: emptyAsNull(day),
    lostTo: emptyAsNull(day),
    words: z.string().trim().max(500).default(''),
    people: z.string().trim().max(500).default(''),
    dueOn: emptyAsNull(day),
    retentionDays: z.coerce.number().int().min(1).max(3650).default(30),
    consent: z.boolean().default(false),
    /** Where the device is, and in what state. */
    deviceState: code(z.enum(DEVICE_STATES)).default('in-use'),
    /** Whether the owner let the cloud keep copies. */
    syncing: code(z.enum(SYNCING)).default('not-known'),
    notes: z.string().trim().max(5000).default(''),
    /** By whose clocks times are shown (IANA); null: the device's, where it says so, else this computer's. */
    timeZone: emptyAsNull(timeZone),
  })
  .refine(({ lostFrom, lostTo }) => !lostFrom || !lostTo || lostFrom <= lostTo, {
    message: 'The loss cannot end before it begins.',
    path: ['lostTo'],
  })
  .meta({ id: 'Brief' })

export type Brief = z.output<typeof brief>

/** A brief in which nothing was said yet. */
export const emptyBrief = (): Brief => ({ ...brief.parse({ owner: 'nobody yet' }), owner: '' })

/** The loss between the brief's days in a zone, in milliseconds; both days count in full. Null: it names none. */
export function lossOf({ lostFrom, lostTo }: Pick<Brief, 'lostFrom' | 'lostTo'>, zone: string): Sought['lost'] {
  if (!lostFrom && !lostTo) return null
  return {
    from: lostFrom ? startOfDay(lostFrom, zone).getTime() : null,
    to: lostTo ? endOfDay(lostTo, zone).getTime() - 1 : null,
  }
}

/** What findings are held against. `zone`: where the brief's days begin and end. */
export const soughtOf = (brief: Brief, zone: string): Sought => ({
  categories: brief.categories,
  words: brief.words
    .toLowerCase()
    .split(/[\s,;]+/)
    .filter(Boolean),
  people: brief.people
    .toLowerCase()
    .split(/[,;\n]+/)
    .map((one) => one.trim())
    .filter(Boolean),
  lost: lossOf(brief, zone),
})
