import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { join } from 'node:path'
import { inject, onTestFinished } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { connect, type Db } from '../../apps/workbench/src/database/connection.js'
import { asId } from '../../apps/workbench/src/database/json.js'
import { addToTray } from '../../apps/workbench/src/database/tray.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { FindingId, JobId, ReadId, SourceId } from '../../apps/workbench/src/domain/ids.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { type AtEnd, scratchFolder } from '../setup/fixtures.js'

export interface Workbench {
  db: Db
  url: string
  jobId: JobId
  sourceId: SourceId
  startRead(): Promise<ReadId>
}

async function makeTables(db: Db): Promise<void> {
  await db.transaction(async (tx) => {
    // In the order of their names, not of their references.
    await tx.raw('SET FOREIGN_KEY_CHECKS = 0')
    for (const statement of inject('tables')) await tx.raw(statement)
    await tx.raw('SET FOREIGN_KEY_CHECKS = 1')
  })
}

/** An empty database, dropped when the test ends, or when `atEnd` says. */
export async function emptyDatabase(
  serverUrl: string,
  atEnd: AtEnd = onTestFinished,
): Promise<{ db: Db; url: string }> {
  const name = `lumbrin_test_${randomBytes(6).toString('hex')}`
  const server = connect(serverUrl)
  await server.raw(`CREATE DATABASE ${name}`)
  const url = new URL(serverUrl)
  url.pathname = `/${name}`
  const db = connect(url.href)
  atEnd(async () => {
    await db.destroy()
    await server.raw(`DROP DATABASE ${name}`)
    await server.destroy()
  })
  return { db, url: url.href }
}

/** A database of its own without a job; the product's settings lead to it, and to folders that go with it. */
export async function migratedDatabase(serverUrl: string, atEnd?: AtEnd): Promise<{ db: Db; url: string }> {
  const made = await emptyDatabase(serverUrl, atEnd)
  process.env.LUMBRIN_DATABASE_URL = made.url
  process.env.LUMBRIN_DATA = scratchFolder(atEnd)
  process.env.LUMBRIN_ROOTS = scratchFolder(atEnd)
  await makeTables(made.db)
  return made
}

/** A database of its own with one job that has the demo's backup as its source. */
export async function workbenchWith(serverUrl: string, folder: string, atEnd?: AtEnd): Promise<Workbench> {
  const { db, url } = await migratedDatabase(serverUrl, atEnd)
  const job = await openJob(db, briefSchema.parse({ owner: 'Odile Varga' }))
  const sourceId = await addSource(db, job.id, folder)
  return {
    db,
    url,
    jobId: job.id,
    sourceId,
    startRead: async () => startRead(db, sourceId, {}),
  }
}

/** The same with its source read for one category, whose findings lie in the tray. */
export async function workbenchWithTray(
  serverUrl: string,
  folder: string,
  category: 'photos' | 'messages',
): Promise<Workbench & { root: string; ids: FindingId[] }> {
  const bench = await workbenchWith(serverUrl, folder)
  const id = await startRead(bench.db, bench.sourceId, { categories: [category] })
  await claimWork(bench.db, 'reads', 'test:1')
  await runRead(bench.db, id, new AbortController().signal)
  const ids = (await bench.db('findings').where({ category }).pluck('id')).map(asId<FindingId>)
  await addToTray(bench.db, bench.jobId, ids)
  return { ...bench, root: process.env.LUMBRIN_ROOTS ?? '', ids }
}

/** What is claimed of each finding of a job and what it shows, in an order that does not depend on how it was read. */
export const claimsIn = ({ db, jobId }: Pick<Workbench, 'db' | 'jobId'>) =>
  db('findings')
    .where({ job_id: jobId })
    .orderBy('category')
    .orderBy('identity')
    .select('category', 'identity', 'standing', 'title', 'text', 'sighting_count', 'lost_after', 'lost_before')

/** The background process as it runs in real use; killed with SIGKILL, at the latest when the test ends. */
export function startReader(bench: Workbench): { kill(): Promise<unknown> } {
  const reader = spawn(process.execPath, [join(inject('programs'), 'reader.mjs')], {
    env: { ...process.env, LUMBRIN_DATABASE_URL: bench.url },
    stdio: 'ignore',
  })
  const ended = new Promise((resolve) => reader.once('exit', resolve))
  const kill = () => {
    reader.kill('SIGKILL')
    return ended
  }
  onTestFinished(() => void kill())
  return { kill }
}
