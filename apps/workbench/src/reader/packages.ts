import { once } from 'node:events'
import { actingFor } from '../database/acting.js'
import { askedBy, claimedBy, claimWork, nextWork, releaseOwn } from '../database/claims.js'
import type { Db } from '../database/connection.js'
import { findHandover } from '../database/handovers.js'
import type { HandoverId } from '../domain/ids.js'
import { log } from '../log.js'
import { endDied, runHandover } from '../services/handing-over.js'
import { childWorker, startChild, workAsChild } from './child.js'

/** The command-line argument with which this program writes one package and exits. */
export const ONE_PACKAGE = 'one-package'

// The most that V8's old space may take, by what a package keeps of each item: measured with 500,000 and 1,000,000 items
// (docs/performance.md). Without a limit it grows to twice what is needed before garbage is collected.
const HEAP_MB = 130
const ITEMS_PER_MB = 10_000
const SEMI_SPACE_MB = 8
// The limit of a second try: how much memory a single item needs is not known before it is read.
const SECOND_TRY_MB = 2048
const MOST_DEATHS = 2

const KIND = 'package'

/**
 * Has packages written by child processes, one at a time, each with a limit on its memory. A package whose process dies is
 * begun again once with a higher limit; if that one dies too, the handover fails.
 */
export class PackageProcesses {
  readonly #deaths = new Map<HandoverId, number>()
  #last: { worker: string; died: string | undefined } | undefined
  /** Whether a package is being written. */
  writing = false

  constructor(readonly ending: AbortSignal) {}

  /** @returns whether there was a package to be written */
  async writeNext(db: Db): Promise<boolean> {
    await this.#settleLast(db)
    const next = await nextWork(db, 'handovers')
    if (next === undefined) return false
    const { total = 0 } = (await findHandover(db, next)) ?? {}
    if (this.ending.aborted) return false
    this.writing = true
    try {
      this.#last = await this.#write(this.#deaths.has(next) ? SECOND_TRY_MB : Math.ceil(HEAP_MB + total / ITEMS_PER_MB))
    } finally {
      this.writing = false
    }
    await this.#settleLast(db)
    return true
  }

  /** Runs one child process to its end. @returns its name as a worker, and how it died if it did */
  async #write(heapMegabytes: number): Promise<{ worker: string; died: string | undefined }> {
    const child = startChild(ONE_PACKAGE, this.ending, [
      `--max-old-space-size=${heapMegabytes}`,
      `--max-semi-space-size=${SEMI_SPACE_MB}`,
    ])
    const [code, signal] = await once(child, 'exit')
    const died = code === 0 || this.ending.aborted ? undefined : (signal ?? `code ${code}`)
    return { worker: childWorker(KIND, child), died }
  }

  /**
   * If the last process exited without ending its package: returns that to the queue, or after too many deaths fails it.
   * When the database is away this throws, and the next call tries again.
   */
  async #settleLast(db: Db): Promise<void> {
    if (!this.#last) return
    const { worker, died } = this.#last
    const [id] = died === undefined ? [] : await claimedBy(db, 'handovers', worker)
    const deaths = id === undefined ? 0 : (this.#deaths.get(id) ?? 0) + 1
    if (died !== undefined) log.error({ how: died }, 'the process that wrote a package ended by itself')
    // Before it is back in the queue, where another reader could take it.
    if (id !== undefined && died !== undefined && deaths >= MOST_DEATHS) await endDied(db, id, died)
    await releaseOwn(db, worker)
    if (id !== undefined) this.#deaths.set(id, deaths)
    this.#last = undefined
  }
}

/** Writes one queued package as a child process of the reader. */
export const writeOnePackage = (db: Db, ending: AbortSignal): Promise<void> =>
  workAsChild(async () => {
    const id = await claimWork(db, 'handovers', childWorker(KIND, process))
    if (id !== undefined) await actingFor(await askedBy(db, 'handovers', id), () => runHandover(db, id, ending))
  })
