import type { CategoryId } from '../categories/types.js'
import type { LossWindow } from './window.js'

/** A source of the job as far as the route depends on it. */
export interface RouteSource {
  id: number
  name: string
  /** The state of the device that it shows, in milliseconds. */
  takenAt: number | null
  encrypted: boolean
  /** Its password was not given yet, or was forgotten with the last start. */
  locked: boolean
  /** True once a live pass over what is sought was finished. */
  read: boolean
  /** True once a residue pass over what is sought was finished. */
  residueRead: boolean
}

/** What is known of the case: the brief, and what the job's sources gave so far. */
export interface RouteFacts {
  now: number
  categories: readonly CategoryId[]
  lost: LossWindow | null
  device: 'in use' | 'put aside' | 'locked' | 'does not start' | 'erased' | 'not here'
  /** The owner let the cloud keep copies; null: not known. */
  syncing: boolean | null
  sources: readonly RouteSource[]
  /** Findings that match the brief, by standing. */
  matching: { binned: number; leastDaysLeft: number | null; earlier: number; rebuilt: number; partial: number }
}

export type Likelihood = 'likely' | 'possible' | 'unlikely' | 'none'

/** One step that can be taken, with all that is needed to decide for it. */
export interface RouteStep {
  rule: string
  /** What to do, as an instruction. */
  do: string
  why: string
  likelihood: Likelihood
  /** Time and risk in words. */
  cost: string
  /** Days until it stops being possible; null: it does not run out by itself. */
  daysLeft: number | null
  sourceId: number | null
}
