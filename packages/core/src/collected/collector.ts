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
}

/** Brings what a read needs from where it is (a device, a cloud account) into a collection. */
export interface Collector {
  /** Writes the collection's header and listing, so that the source can be opened. */
  begin(): Promise<void>
  /**
   * Makes ready what cannot be fetched file by file. `stores`: the files from which the next step is read; `wants`: all
   * that the read will ever want. True: the source has to be opened anew to see what came.
   */
  prepare(stores: readonly WantedPlace[], wants: (place: WantedPlace) => boolean): Promise<boolean>
  /** Fetches one file. */
  readonly fetch: Fetch
  close(): Promise<void>
}
