import { z } from 'zod'
import { category, count } from './core-values.js'
import { findingLine } from './finding.js'
import { jobRoute } from './route.js'

/** Matches that are gone from the device, or those that its newest state shows still. */
export const MATCH_KINDS = ['gone', 'kept'] as const
export type MatchKind = (typeof MATCH_KINDS)[number]

/** Findings of one category that match the brief, with the strongest of them; of categories that stand far behind, none. */
const matches = z.strictObject({
  category,
  count,
  inTray: count,
  best: z.array(findingLine),
})

/** What a job says of its brief: how far it is answered, the strongest matches, and the way on. */
export const jobAnswer = z.strictObject({
  route: jobRoute,
  /** What matches and is gone; the brief's categories first. */
  matches: z.array(matches),
  /**
   * What matches and is shown by the newest state, where that is from before the loss was over: nothing in the job says
   * whether it is gone since. Null: the newest state is from after the loss.
   */
  before: z.strictObject({ source: z.string(), day: z.string(), matches: z.array(matches) }).nullable(),
})

export type Matches = z.output<typeof matches>
export type JobAnswer = z.output<typeof jobAnswer>
