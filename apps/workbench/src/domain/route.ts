import { z } from 'zod'
import { count, standing } from './core-values.js'

const by = <T extends string>(kind: T) => z.literal(kind)

/** What a step of the route leads to. Ids of sources are those of the job. */
const stepAction = z.discriminatedUnion('kind', [
  z.strictObject({ kind: by('open'), standings: z.array(standing).readonly() }),
  z.strictObject({ kind: by('read'), sourceId: count }),
  z.strictObject({ kind: by('unlock'), sourceId: count }),
  z.strictObject({ kind: by('retry'), sourceId: count }),
  z.strictObject({ kind: by('add-backup'), path: z.string(), locked: z.boolean() }),
  z.strictObject({ kind: by('add-device'), udid: z.string() }),
  z.strictObject({ kind: by('add-snapshot'), id: z.string() }),
  z.strictObject({ kind: by('sign-in') }),
  z.strictObject({ kind: by('find-backups') }),
  z.strictObject({ kind: by('bay') }),
  z.strictObject({ kind: by('restore-cost'), sourceId: count }),
  /** Away from this computer. */
  z.strictObject({ kind: by('by-hand') }),
])

const routeStep = z.strictObject({
  rule: z.string(),
  /** What to do, as an instruction. */
  do: z.string(),
  why: z.string(),
  likelihood: z.enum(['likely', 'possible', 'unlikely', 'none']),
  /** Time and risk in words. */
  cost: z.string(),
  /** Days until it stops being possible; null: it does not run out by itself. */
  daysLeft: z.number().nullable(),
  sourceId: count.nullable(),
  action: stepAction,
})

const gap = z.strictObject({
  kind: z.enum(['no-source', 'not-read', 'locked', 'read-gaps', 'away', 'not-added', 'cannot-hold']),
  /** Why the search is incomplete, as a sentence with the source's name. */
  words: z.string(),
  sourceId: count.nullable(),
})

const matchingCounts = z.strictObject({
  binned: count,
  /** Of those in a bin: days left of the first to go; null: none has any, or none is known. */
  leastDaysLeft: z.number().nullable(),
  earlier: count,
  rebuilt: count,
  partial: count,
  elsewhere: count,
  /** Of those that are gone: their content cannot be had. */
  withoutContent: count,
})

/** What to do next in a job, and how far its brief is answered. */
export const jobRoute = z.strictObject({
  steps: z.array(routeStep),
  answer: z.strictObject({
    answer: z.enum(['found', 'found-in-part', 'not-found-so-far', 'not-found']),
    why: z.string(),
    gaps: z.array(gap),
    lookedThrough: z.array(z.string()),
  }),
  matching: matchingCounts,
  /** What a full restore would be compared with: the newest state of the brief's device; null: there is none. */
  newestSourceId: count.nullable(),
})

export type JobRoute = z.output<typeof jobRoute>
