import type { Report } from '../io/errors.js'
import type { Fetch } from './tree.js'

/** A file by its place, before anything else of it is known. */
export interface WantedPlace {
  domain: string
  path: string
}

/** How far fetching is. `bytesTotal` 0: not known yet. */
export interface CollectProgress {
  what: string
  items: number
  bytes: number
  bytesTotal: number
}

/** What a collector tells while it works. */
export interface CollectorOptions {
  folder: string
  report: Report
  progress: (now: CollectProgress) => void
  signal: AbortSignal
  /** Of what is fetched file by file: all that the read will ever want. Absent: what a backup holds as well. */
  wants?: (place: WantedPlace) => boolean
}

/** Brings what a read needs from where it is (a device, a cloud account) into a collection. */
export interface Collector {
  /**
   * Writes the collection's header and listing, so that the source can be opened. A listing that is there is a state of
   * its own and stays as it is, unless `anew`: nothing was read from it yet.
   */
  begin(anew: boolean): Promise<void>
  /** When what these stores are read from was fetched: the date of what they show. Null: it was not yet. */
  dateOf(stores: readonly WantedPlace[]): Promise<Date | null>
  /**
   * Makes ready what cannot be fetched file by file. `stores`: the files from which the next step is read; `wants`: all
   * that the read will ever want. True: the source has to be opened anew to see what came.
   */
  prepare(stores: readonly WantedPlace[], wants: (place: WantedPlace) => boolean): Promise<boolean>
  /** Fetches one file. */
  readonly fetch: Fetch
  close(): Promise<void>
}
