import { constants, hostname, setPriority } from 'node:os'
import { setTimeout as sleep } from 'node:timers/promises'
import { readConfig } from '../config.js'
import { actingFor } from '../database/acting.js'
import { askedBy, claimWork, releaseDead } from '../database/claims.js'
import { connect, type Db } from '../database/connection.js'
import { followBay } from '../services/bay-rules.js'
import { runCopyTask } from '../services/copying.js'
import { fingerprintSome } from '../services/fingerprinting.js'
import { askServerForKeys } from '../services/keyring.js'
import { resumeReturned } from '../services/presence.js'
import { runRead } from '../services/reading.js'
import { followRegularCopies } from '../services/regular-copies.js'
import { READ_BESIDE, ReadersBeside, readBeside } from './beside.js'
import { endingSignal, IDLE_MS, work } from './loop.js'
import { ONE_PACKAGE, PackageProcesses, writeOnePackage } from './packages.js'

// Somebody who works at a job asks for one thing after the other: what nobody waits for would get in between.
const QUIET_MS = 3000

// Where both want the processor, whoever waits for a page goes before what runs for minutes anyway.
setPriority(constants.priority.PRIORITY_BELOW_NORMAL)

const ending = endingSignal()

const beside = new ReadersBeside(ending)
let reading = false

/** Reads the next source that waits. @returns whether there was one */
async function readNext(db: Db, worker: string): Promise<boolean> {
  const read = await claimWork(db, 'reads', worker)
  if (read === undefined) return false
  reading = true
  try {
    await actingFor(await askedBy(db, 'reads', read), () => runRead(db, read, ending))
  } finally {
    reading = false
  }
  return true
}

async function readOnce(db: Db, worker: string): Promise<boolean> {
  if (await readNext(db, worker)) {
    worked = Date.now()
    return true
  }
  await lookForReturned(db)
  // What nobody waits for is done when there is nothing else to do.
  const mayRest = !packages.writing && !beside.any && Date.now() - worked > QUIET_MS
  return mayRest && fingerprintSome(db, ending)
}

async function besideOnce(db: Db): Promise<boolean> {
  await beside.adjust(db, reading)
  return false
}

async function copyOnce(db: Db, worker: string): Promise<boolean> {
  const task = await claimWork(db, 'copy_tasks', worker)
  if (task === undefined) return false
  await actingFor(await askedBy(db, 'copy_tasks', task), () => runCopyTask(db, task, ending))
  return true
}

const packages = new PackageProcesses(ending)

async function packageOnce(db: Db): Promise<boolean> {
  const was = await packages.writeNext(db)
  if (was) worked = Date.now()
  return was
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

/** Runs reads, packages, copies and the rules of the bay side by side, so that none waits for another kind. */
async function workAtAll(db: Db): Promise<void> {
  await waitForSchema(db)
  await releaseDead(db, hostname(), isAlive)
  // A worker's name ends with the process that it is.
  await Promise.all([
    work(db, `${hostname()}:${process.pid}`, ending, readOnce),
    work(db, `${hostname()}:children:${process.pid}`, ending, besideOnce),
    work(db, `${hostname()}:packages:${process.pid}`, ending, packageOnce),
    work(db, `${hostname()}:copies:${process.pid}`, ending, copyOnce),
    work(db, `${hostname()}:bay:${process.pid}`, ending, bayOnce),
  ])
}

/** The server brings the database to its newest version; started together, we may be first. */
async function waitForSchema(db: Db): Promise<void> {
  while (!ending.aborted && !(await db.schema.hasTable('category_locks').catch(() => false))) await sleep(IDLE_MS)
}

askServerForKeys()
const db = connect(readConfig().databaseUrl)
if (process.argv[2] === ONE_PACKAGE) await writeOnePackage(db, ending)
else if (process.argv[2] === READ_BESIDE) await readBeside(ending, (worker) => readNext(db, worker))
else await workAtAll(db)
await db.destroy()
