import type { SourceKind } from '../backup/types.js'
import type { CategoryId } from '../categories/registry.js'
import type { Standing } from './standing.js'
import type { LossWindow } from './window.js'

/** A source of the job as far as the route depends on it. */
export interface RouteSource {
  id: number
  name: string
  kind: SourceKind
  /** The state of the device that it shows, in milliseconds. */
  takenAt: number | null
  /** It is of the device that the brief is about. */
  ofBriefDevice: boolean
  /** It is of a device that is somebody else's. */
  foreign: boolean
  /** Its password was not given yet, or was forgotten with the last start. */
  locked: boolean
  /** It may hold something of what is sought. */
  canHold: boolean
  /** The live pass over all that it can hold of what is sought ended. */
  read: boolean
  /** The same of the residue pass; true as well where there are no leftovers to be had. */
  residueRead: boolean
  /** What of it could not be had, and may be had by another try. */
  gaps: number
  /** It is being read, or waits for that. */
  busy: boolean
  /** Why its read waits; null: it does not. */
  away: string | null
}

export interface KnownBackup {
  path: string
  name: string
  takenAt: number | null
  encrypted: boolean
  /** It is of a device of this job. */
  ofJobDevice: boolean
}
export interface KnownDevice {
  udid: string
  name: string
}
export interface KnownSnapshot {
  id: string
  name: string
  takenAt: number | null
  /** It is of a device of this job. */
  ofJobDevice: boolean
}

/** Places that are known, were not added yet, and can hold something of what is sought. */
export interface KnownPlaces {
  backups: readonly KnownBackup[]
  devices: readonly KnownDevice[]
  /** Null: nobody is signed in. */
  snapshots: readonly KnownSnapshot[] | null
}

/** Findings that match the brief, by standing. */
export interface MatchingCounts {
  binned: number
  /** Of those in a bin: days left of the first to go; null: none has any, or none is known. */
  leastDaysLeft: number | null
  earlier: number
  rebuilt: number
  partial: number
  elsewhere: number
  /** Of those that are gone: their content cannot be had. */
  withoutContent: number
}

/** What is known of the case: the brief, and what the job's sources gave so far. */
export interface RouteFacts extends KnownPlaces {
  now: number
  /** By whose clocks days are named (IANA). */
  timeZone: string
  categories: readonly CategoryId[]
  lost: LossWindow | null
  device: 'in-use' | 'put-aside' | 'locked' | 'does-not-start' | 'erased' | 'not-here'
  /** The owner let the cloud keep copies; null: not known. */
  syncing: boolean | null
  sources: readonly RouteSource[]
  matching: MatchingCounts
  /** The account's library and archives are among the sources. */
  hasLibrary: boolean
  /** Rules whose steps the technician called done. */
  done: readonly string[]
}

export type Likelihood = 'likely' | 'possible' | 'unlikely' | 'none'

/** What is done at one click of a step. */
export type StepAction =
  | { kind: 'open'; standings: readonly Standing[] }
  | { kind: 'read'; sourceId: number }
  | { kind: 'unlock'; sourceId: number }
  | { kind: 'retry'; sourceId: number }
  /** `locked`: a password opens it. */
  | { kind: 'add-backup'; path: string; locked: boolean }
  | { kind: 'add-device'; udid: string }
  | { kind: 'add-snapshot'; id: string }
  | { kind: 'sign-in' }
  | { kind: 'find-backups' }
  | { kind: 'bay' }
  | { kind: 'restore-cost'; sourceId: number }
  /** Done by hand, away from this computer. */
  | { kind: 'by-hand' }

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
  action: StepAction
}
