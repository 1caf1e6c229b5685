import { randomBytes } from 'node:crypto'
import { onTestFinished } from 'vitest'
import { connect, type Db } from '../../apps/workbench/src/database/connection.js'
import { migrate } from '../../apps/workbench/src/database/migrate.js'
import { listReads } from '../../apps/workbench/src/database/sources.js'
import { briefSchema } from '../../apps/workbench/src/services/brief.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { scratchFolder } from '../setup/fixtures.js'

export interface Workbench {
  db: Db
  url: string
  jobId: number
  sourceId: number
  startRead(): Promise<number>
}

/** A database of its own with one job that has the demo's backup as its source. */
export async function workbenchWith(serverUrl: string, folder: string): Promise<Workbench> {
  const name = `lumbrin_test_${randomBytes(6).toString('hex')}`
  const server = connect(serverUrl)
  await server.raw(`CREATE DATABASE ${name}`)
  const url = new URL(serverUrl)
  url.pathname = `/${name}`
  process.env.LUMBRIN_DATABASE_URL = url.href
  process.env.LUMBRIN_DATA = scratchFolder()
  process.env.LUMBRIN_ROOTS = scratchFolder()
  const db = connect(url.href)
  onTestFinished(async () => {
    await db.destroy()
    await server.raw(`DROP DATABASE ${name}`)
    await server.destroy()
  })
  await migrate(db)
  const job = await openJob(db, briefSchema.parse({ owner: 'Odile Varga' }))
  const sourceId = await addSource(db, job.id, folder)
  return {
    db,
    url: url.href,
    jobId: job.id,
    sourceId,
    startRead: async () => startRead(db, sourceId, [], [], await listReads(db, job.id)),
  }
}
