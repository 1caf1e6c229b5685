import { z } from 'zod'
import { brief } from './brief.js'
import { count } from './core-values.js'
import { jobId } from './ids.js'
import { ZONE_SOURCES } from './labels.js'
import { time, timeZone } from './time.js'

/** A job as it is stored. */
export const job = z.strictObject({
  id: jobId,
  number: z.string(),
  /** Unlike the number, no other installation has it. */
  uid: z.string(),
  owner: z.string(),
  brief,
  /** By whose clocks times are shown (IANA). */
  timeZone,
  /** Who says so. */
  timeZoneOf: z.enum(ZONE_SOURCES),
  createdAt: time,
  /** When its content was removed; null: it is there. */
  purgedAt: time.nullable(),
})

/** The brief of a job, the version of it that was seen, and the job's zone. */
export const savedBrief = z.strictObject({ brief, version: z.string(), timeZone, timeZoneOf: z.enum(ZONE_SOURCES) })

/** A job with what the list of jobs shows. */
export const jobSummary = job.extend({
  sources: count,
  findings: count,
  /** Reads that are at work, or wait for it. */
  reading: count,
  tray: count,
  /** Those that are done. */
  handovers: count,
})

/** An entry of a job's log. */
export interface LogEntry {
  at: Date
  action: string
  detail: string
  /** Who did it; an empty text: nobody said, or the application itself. */
  operator: string
}

/** What a check of a job's log found. */
export const logCheck = z.strictObject({
  number: z.string(),
  entries: count,
  /** The newest hash, SHA-256. */
  hash: z.string(),
  /** In words, one for each entry that is not as it was written, and for those that are gone. */
  wrong: z.array(z.string()),
})

/** A Findings view that was kept under a name. */
export const savedView = z.strictObject({
  id: z.number().int().positive(),
  name: z.string(),
  /** The view's state, as it stands in the address. */
  address: z.string(),
})

/** What a program needs to open a job as a network folder. Shown once. */
export const networkFolder = z.strictObject({ path: z.string(), user: z.string(), password: z.string() })

/** What is kept of a job's content, and until when it may be. */
export interface Kept {
  keepUntil: Date
  rows: Record<string, number>
  folders: { kind: string; path: string; bytes: number; files: number }[]
  purgedAt: Date | null
}

export type Job = z.output<typeof job>
export type SavedBrief = z.output<typeof savedBrief>
export type JobSummary = z.output<typeof jobSummary>
export type SavedView = z.output<typeof savedView>
export type NetworkFolderAccess = z.output<typeof networkFolder>
