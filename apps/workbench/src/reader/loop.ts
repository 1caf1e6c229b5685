import { setTimeout as sleep } from 'node:timers/promises'
import { releaseOwn } from '../database/claims.js'
import type { Db } from '../database/connection.js'
import { log } from '../log.js'

/** How long it rests where no work was waiting. Milliseconds. */
export const IDLE_MS = 300

/** A signal that is aborted when this process is told to end (SIGTERM, SIGINT). */
export function endingSignal(): AbortSignal {
  const stop = new AbortController()
  for (const signal of ['SIGTERM', 'SIGINT'] as const) process.once(signal, () => stop.abort())
  return stop.signal
}

/**
 * Claims work and does it, one piece after the other, until `ending` is aborted.
 * @param worker the name under which work is claimed
 * @param workOnce claims one piece of work and does it. @returns false when none was queued
 */
export async function work(
  db: Db,
  worker: string,
  ending: AbortSignal,
  workOnce: (db: Db, worker: string) => Promise<boolean>,
): Promise<void> {
  // Work was broken off by an error of the database, and is claimed still.
  let lost = false
  while (!ending.aborted) {
    // The database may be away for a moment (restart, upgrade): work goes on when it is back.
    const once = async () => {
      if (lost) await releaseOwn(db, worker)
      lost = false
      return workOnce(db, worker)
    }
    const busy = await once().catch((thrown: unknown) => {
      log.error({ err: thrown }, 'the work of the reader was broken off')
      lost = true
      return false
    })
    if (!busy) await sleep(IDLE_MS, undefined, { signal: ending }).catch(() => {})
  }
}
