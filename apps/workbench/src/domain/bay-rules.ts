import { z } from 'zod'
import { jobId, readId } from './ids.js'
import { READ_STATES } from './read-states.js'
import { time } from './time.js'

/** What is done by itself with a device that is plugged in. Nothing of it writes to a device, or asks it for trust. */
export const bayRules = z.strictObject({
  /** With a device that an open job has. */
  known: z.enum(['nothing', 'read']),
  /** With any other. */
  unknown: z.enum(['nothing', 'open-job', 'read']),
  /** What is read: what the job's brief seeks, the usual kinds, or pictures and films. */
  preset: z.enum(['brief', 'usual', 'pictures']),
  /** A page of the bay that is open sounds, and the browser shows a note. */
  tell: z.boolean(),
})
export type BayRules = z.output<typeof bayRules>

export const NO_RULES: BayRules = { known: 'nothing', unknown: 'nothing', preset: 'brief', tell: false }

/** True where something is done by itself. */
export const isOn = ({ known, unknown }: BayRules): boolean => known !== 'nothing' || unknown !== 'nothing'

/** What a rule does, or would do, with a device, in words. */
export const bayPlan = z.strictObject({
  udid: z.string(),
  name: z.string().nullable(),
  /** `waits`: it cannot be read in its present state, and is looked at again. */
  act: z.enum(['nothing', 'waits', 'read', 'open-job', 'open-and-read']),
  /** The job that has it; null: none. */
  job: z.strictObject({ id: jobId, number: z.string() }).nullable(),
  words: z.string(),
})
export type BayPlan = z.output<typeof bayPlan>

// Stored in bay_events.act: renaming a value needs a migration. `begun`: it was not heard how that ended.
export const BAY_ACTS = ['there', 'waits', 'begun', 'nothing', 'read', 'open-job', 'failed'] as const
export type BayAct = (typeof BAY_ACTS)[number]

/** What was done with a device that was plugged in. */
export const bayEvent = z.strictObject({
  id: z.number().int().positive(),
  udid: z.string(),
  name: z.string().nullable(),
  act: z.enum(BAY_ACTS),
  said: z.string(),
  jobId: jobId.nullable(),
  readId: readId.nullable(),
  /** How its read stands; null: there is none. */
  readState: z.enum(READ_STATES).nullable(),
  cameAt: time,
  goneAt: time.nullable(),
})
export type BayEvent = z.output<typeof bayEvent>

export const bayRulesPage = z.strictObject({ rules: bayRules, version: z.string() })
