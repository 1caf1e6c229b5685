import { type ChildProcess, fork } from 'node:child_process'
import { hostname } from 'node:os'
import { setTimeout as sleep } from 'node:timers/promises'
import { nextWork, releaseOwn } from '../database/claims.js'
import { type Db, isConnectionLoss } from '../database/connection.js'
import { log } from '../log.js'
import { readsAtOnce } from '../services/settings.js'
import { IDLE_MS } from './loop.js'

/** The command-line argument with which this program reads sources beside the reader that started it. */
export const READ_BESIDE = 'read-beside'

// How long such a process waits for another read before it ends. Milliseconds.
const PATIENCE_MS = 5000

const workerOf = ({ pid }: { pid?: number | undefined }) => `${hostname()}:beside:${pid}`

/** Has sources read by child processes beside this one, while more reads wait than go on: as many as Settings say. */
export class ReadersBeside {
  readonly #children = new Set<ChildProcess>()
  /** Workers that ended and may have something claimed still. */
  readonly #gone: string[] = []

  constructor(readonly ending: AbortSignal) {}

  /** Whether any of them is there. */
  get any(): boolean {
    return this.#children.size > 0
  }

  /** Starts another one, or ends one, where that is called for. `busy`: this process reads a source itself. */
  async look(db: Db, busy: boolean): Promise<void> {
    for (let worker = this.#gone[0]; worker !== undefined; worker = this.#gone[0]) {
      await releaseOwn(db, worker)
      this.#gone.shift()
    }
    const most = (busy || this.any ? await readsAtOnce(db) : 1) - 1
    if (this.#children.size > most) [...this.#children].at(-1)?.kill('SIGTERM')
    else if (busy && this.#children.size < most && (await nextWork(db, 'reads')) !== undefined) this.#start()
  }

  #start(): void {
    if (this.ending.aborted) return
    const child = fork(process.argv[1] ?? '', [READ_BESIDE], { execArgv: process.execArgv })
    this.#children.add(child)
    const stop = () => void child.kill('SIGTERM')
    this.ending.addEventListener('abort', stop)
    child.once('exit', (code, signal) => {
      this.ending.removeEventListener('abort', stop)
      this.#children.delete(child)
      if (code !== 0) log.error({ how: signal ?? code }, 'a process that read sources ended by itself')
      this.#gone.push(workerOf(child))
    })
  }
}

/** Reads sources in a child process of the reader, one after the other, until none has waited for a while. */
export async function readBeside(
  db: Db,
  ending: AbortSignal,
  readNext: (db: Db, worker: string) => Promise<boolean>,
): Promise<void> {
  // When the reader dies, this process dies with it: the next one begins where this one was.
  process.once('disconnect', () => process.exit(1))
  if (!process.connected) return
  try {
    for (let last = Date.now(); !ending.aborted && Date.now() - last < PATIENCE_MS; )
      if (await readNext(db, workerOf(process))) last = Date.now()
      else await sleep(IDLE_MS, undefined, { signal: ending }).catch(() => {})
  } catch (thrown) {
    if (!isConnectionLoss(thrown)) throw thrown
    log.error({ err: thrown }, 'a read was broken off')
  }
  process.removeAllListeners('disconnect')
  process.disconnect()
}
