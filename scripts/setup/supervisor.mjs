import { setTimeout as sleep } from 'node:timers/promises'
import { findProgram } from './packages.mjs'
import { say } from './shell.mjs'

// What dies at once is tried again later and later. Milliseconds.
const FIRST_WAIT_MS = 500
const LONGEST_WAIT_MS = 30_000
/** Whoever ran this long is well; the next death counts as the first. */
const WELL_MS = 60_000
const MOST_DEATHS = 8

/**
 * A program that ends with the process that started it, however that one ends: as command and words. Where the system
 * cannot do that, it ends when it is told to.
 */
export function bound(command, words) {
  const setpriv = process.platform === 'linux' ? findProgram('setpriv') : undefined
  return setpriv ? [setpriv, ['--pdeathsig', 'TERM', '--', command, ...words]] : [command, words]
}

/**
 * Keeps the parts of the application running: what dies is started again, with growing waits.
 * A part has a `name`, and a `start` that gives its child process, ready or not.
 */
export class Supervisor {
  #stopping = false
  #children = new Map()
  #ends = []

  /** `giveUp` is called with a part's name once it dies again and again. */
  constructor(giveUp) {
    this.giveUp = giveUp
  }

  /** Starts a part and watches over it. */
  watch(part) {
    const child = part.start()
    this.#ends.push(this.#watch(part, child))
    return child
  }

  async #watch(part, first) {
    let child = first
    for (let deaths = 0; ; ) {
      const began = Date.now()
      this.#children.set(part.name, child)
      const how = await endOf(child)
      if (this.#stopping) return
      deaths = Date.now() - began > WELL_MS ? 1 : deaths + 1
      if (deaths >= MOST_DEATHS) {
        say(`${part.name} ended ${deaths} times in a row (${how}): given up`)
        this.giveUp(part.name)
        return
      }
      const wait = Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** (deaths - 1))
      say(`${part.name} ended by itself (${how}) and is started again`)
      await sleep(wait, undefined, { ref: false })
      if (this.#stopping) return
      child = part.start()
    }
  }

  /** Ends all parts, the last one started first; what does not end in time is ended by force. */
  async stop(graceMs = 10_000) {
    this.#stopping = true
    for (const child of [...this.#children.values()].reverse()) {
      if (child.exitCode !== null || child.signalCode !== null) continue
      child.kill('SIGTERM')
      const grace = setTimeout(() => child.kill('SIGKILL'), graceMs)
      await endOf(child)
      clearTimeout(grace)
    }
  }
}

/** How a child process ended, once it has. */
function endOf(child) {
  const words = () => (child.signalCode ? `by ${child.signalCode}` : `with code ${child.exitCode}`)
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve(words())
  return new Promise((go) => {
    child.once('exit', () => go(words()))
    child.once('error', (error) => go(error.message))
  })
}
