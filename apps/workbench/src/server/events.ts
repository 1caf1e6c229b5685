import type { JobId } from '../domain/ids.js'

const EVERY_MS = 400
// What says nothing for longer is cut by some proxies and systems (the HTML Standard, 9.2.7, proposes 15 seconds).
const ALIVE_MS = 15_000
const MOST_LISTENERS = 1000
// Who does not take this much is not listening; a page that was asleep connects anew by itself.
const MOST_WAITING = 64

const ALIVE = Buffer.from(': still here\n\n')

/** One who listens to the events of a job. */
interface Listener {
  /** False: it takes no more. */
  send(bytes: Uint8Array): boolean
  end(): void
}

/**
 * Tells everybody who listens to a job when something of it changed: each job is asked about once for all of them. An event
 * stream by the HTML Standard, 9.2.
 */
export class JobEvents {
  readonly #jobs = new Map<JobId, { listeners: Set<Listener>; last: string }>()
  #timer: NodeJS.Timeout | undefined
  #count = 0
  #aliveAt = 0

  /** `ask`: what is to be told of a job, in one line. */
  constructor(readonly ask: (job: JobId) => Promise<string>) {}

  /** A stream of events; undefined where too many listen already. */
  stream(job: JobId): ReadableStream<Uint8Array> | undefined {
    if (this.#count >= MOST_LISTENERS) return undefined
    let leave = () => {}
    return new ReadableStream<Uint8Array>(
      {
        start: (controller) => {
          leave = this.#join(job, {
            send: (bytes) => {
              controller.enqueue(bytes)
              return (controller.desiredSize ?? 0) > -MOST_WAITING
            },
            end: () => controller.close(),
          })
        },
        cancel: () => leave(),
      },
      { highWaterMark: 1 },
    )
  }

  #join(job: JobId, listener: Listener): () => void {
    const known = this.#jobs.get(job) ?? { listeners: new Set<Listener>(), last: '' }
    this.#jobs.set(job, known)
    known.listeners.add(listener)
    this.#count++
    if (known.last === '') void this.#tell(job)
    else listener.send(eventOf(known.last))
    this.#timer ??= setInterval(() => void this.#tick(), EVERY_MS)
    return () => this.#leave(job, listener)
  }

  #leave(job: JobId, listener: Listener): void {
    const known = this.#jobs.get(job)
    if (!known?.listeners.delete(listener)) return
    this.#count--
    if (known.listeners.size === 0) this.#jobs.delete(job)
    if (this.#jobs.size > 0) return
    clearInterval(this.#timer)
    this.#timer = undefined
  }

  #busy = false

  async #tick(): Promise<void> {
    // A database that is slow is not asked more and more.
    if (this.#busy) return
    this.#busy = true
    try {
      for (const job of [...this.#jobs.keys()]) await this.#tell(job)
      if (Date.now() - this.#aliveAt < ALIVE_MS) return
      this.#aliveAt = Date.now()
      for (const job of [...this.#jobs.keys()]) this.#send(job, ALIVE)
    } finally {
      this.#busy = false
    }
  }

  async #tell(job: JobId): Promise<void> {
    // Where it cannot be asked about now it is told with the next tick.
    const text = await this.ask(job).catch(() => undefined)
    const known = this.#jobs.get(job)
    if (text === undefined || !known || text === known.last) return
    known.last = text
    this.#send(job, eventOf(text))
  }

  #send(job: JobId, bytes: Uint8Array): void {
    for (const listener of [...(this.#jobs.get(job)?.listeners ?? [])]) {
      if (listener.send(bytes)) continue
      this.#leave(job, listener)
      listener.end()
    }
  }
}

const eventOf = (text: string): Uint8Array => Buffer.from(`data: ${text}\n\n`)
