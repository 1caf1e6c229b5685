import type { ChildProcess } from 'node:child_process'
import { setTimeout as sleep } from 'node:timers/promises'
import { nextWork, releaseOwn } from '../database/claims.js'
import type { Db } from '../database/connection.js'
import { log } from '../log.js'
import { readsAtOnce } from '../services/settings.js'
import { childWorker, startChild, workAsChild } from './child.js'
import { IDLE_MS } from './loop.js'

/** The command-line argument with which this program only reads sources, as a child process of the reader. */
export const READ_BESIDE = 'read-beside'

const KIND = 'beside'

// How long such a process waits for another read before it exits. Milliseconds.
const PATIENCE_MS = 5000

/** Keeps child processes that read sources, while reads are queued: with the reader itself, as many as Settings say. */
export class ReadersBeside {
  readonly #children = new Set<ChildProcess>()
  /** Names of child processes that exited: they may still claim a read, which is returned to the queue. */
  readonly #exited: string[] = []

  constructor(readonly ending: AbortSignal) {}

  /** Whether there are any such processes. */
  get any(): boolean {
    return this.#children.size > 0
  }

  /** Starts one more, or ends one, if there are too few or too many. `busy`: the reader is reading a source itself. */
  async adjust(db: Db, busy: boolean): Promise<void> {
    for (let worker = this.#exited[0]; worker !== undefined; worker = this.#exited[0]) {
      await releaseOwn(db, worker)
      this.#exited.shift()
    }
    const most = (busy || this.any ? await readsAtOnce(db) : 1) - 1
    if (this.#children.size > most) [...this.#children].at(-1)?.kill('SIGTERM')
    else if (busy && this.#children.size < most && (await nextWork(db, 'reads')) !== undefined) this.#start()
  }

  #start(): void {
    if (this.ending.aborted) return
    const child = startChild(READ_BESIDE, this.ending)
    this.#children.add(child)
    child.once('exit', (code, signal) => {
      this.#children.delete(child)
      if (code !== 0) log.error({ how: signal ?? code }, 'a process that read sources ended by itself')
      this.#exited.push(childWorker(KIND, child))
    })
  }
}

/** Reads queued sources one after the other, as a child process of the reader, until none was queued for a while. */
export const readBeside = (ending: AbortSignal, readNext: (worker: string) => Promise<boolean>): Promise<void> =>
  workAsChild(async () => {
    for (let last = Date.now(); !ending.aborted && Date.now() - last < PATIENCE_MS; )
      if (await readNext(childWorker(KIND, process))) last = Date.now()
      else await sleep(IDLE_MS, undefined, { signal: ending }).catch(() => {})
  })
