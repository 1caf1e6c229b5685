import { constants, hostname, setPriority } from 'node:os'
import { setTimeout as sleep } from 'node:timers/promises'
import { readConfig } from '../config.js'
import { actingFor } from '../database/acting.js'
import { askedBy, claimWork, releaseDead, releaseOwn } from '../database/claims.js'
import { connect, type Db } from '../database/connection.js'
import { log } from '../log.js'
import { followBay } from '../services/bay-rules.js'
import { runCopyTask } from '../services/copying.js'
import { fingerprintSome } from '../services/fingerprinting.js'
import { runHandover } from '../services/handing-over.js'
import { askServerForKeys } from '../services/keyring.js'
import { resumeReturned } from '../services/presence.js'
import { runRead } from '../services/reading.js'
import { followRegularCopies } from '../services/regular-copies.js'

const IDLE_MS = 300
// Somebody who works at a job asks for one thing after the other: what nobody waits for would get in between.
const QUIET_MS = 3000

// Where both want the processor, whoever waits for a page goes before what runs for minutes anyway.
setPriority(constants.priority.PRIORITY_BELOW_NORMAL)

const stop = new AbortController()
for (const signal of ['SIGTERM', 'SIGINT'] as const) process.once(signal, () => stop.abort())

/** Claims work and does it, a piece at a time, until it is told to stop. */
async function work(db: Db, worker: string, workOnce: (db: Db, worker: string) => Promise<boolean>): Promise<void> {
  // Work was broken off by an error of the database, and is claimed still.
  let lost = false
  while (!stop.signal.aborted) {
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
    if (!busy) await sleep(IDLE_MS, undefined, { signal: stop.signal }).catch(() => {})
  }
}

async function readOnce(db: Db, worker: string): Promise<boolean> {
  const read = await claimWork(db, 'reads', worker)
  if (read !== undefined) {
    await actingFor(await askedBy(db, 'reads', read), () => runRead(db, read, stop.signal))
    worked = Date.now()
    return true
  }
  await lookForReturned(db)
  const handover = await claimWork(db, 'handovers', worker)
  // What nobody waits for is done when there is nothing else to do.
  if (handover === undefined) return Date.now() - worked > QUIET_MS && fingerprintSome(db, stop.signal)
  await actingFor(await askedBy(db, 'handovers', handover), () => runHandover(db, handover, stop.signal))
  worked = Date.now()
  return true
}

async function copyOnce(db: Db, worker: string): Promise<boolean> {
  const task = await claimWork(db, 'copy_tasks', worker)
  if (task === undefined) return false
  await actingFor(await askedBy(db, 'copy_tasks', task), () => runCopyTask(db, task, stop.signal))
  return true
}

const BAY_MS = 1500
let bayLooked = 0

/** Does what rules and regular copies want with devices that are attached. */
async function bayOnce(db: Db): Promise<boolean> {
  if (Date.now() - bayLooked < BAY_MS) return false
  bayLooked = Date.now()
  await followBay(db)
  await followRegularCopies(db)
  return false
}

let worked = 0

const LOOK_MS = 2000
let looked = 0

/** Sources that were away are looked for now and then. */
async function lookForReturned(db: Db): Promise<void> {
  if (Date.now() - looked < LOOK_MS) return
  looked = Date.now()
  await resumeReturned(db)
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0)
    return true
  } catch {
    return false
  }
}

askServerForKeys()
const db = connect(readConfig().databaseUrl)
await waitForSchema(db)
await releaseDead(db, hostname(), isAlive)
// Whoever waits for a read does not wait for a copy of a whole phone. A worker's name ends with the process that it is.
await Promise.all([
  work(db, `${hostname()}:${process.pid}`, readOnce),
  work(db, `${hostname()}:copies:${process.pid}`, copyOnce),
  work(db, `${hostname()}:bay:${process.pid}`, bayOnce),
])
await db.destroy()

/** The server brings the database to its newest version; started together, we may be first. */
async function waitForSchema(db: Db): Promise<void> {
  while (!stop.signal.aborted && !(await db.schema.hasTable('regular_copies').catch(() => false))) await sleep(IDLE_MS)
}
