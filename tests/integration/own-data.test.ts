import { appendFileSync, cpSync, mkdirSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, inject, it } from 'vitest'
import { connect, type Db } from '../../apps/workbench/src/database/connection.js'
import { migrate } from '../../apps/workbench/src/database/migrate.js'
import { listSources } from '../../apps/workbench/src/database/sources.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { addSource } from '../../apps/workbench/src/services/sources.js'
import { startDatabase } from '../../scripts/setup/mariadb.mjs'
import { bringOwnData, saveOwnData } from '../../scripts/setup/own-data.mjs'
import { demoBackup, scratchFolder, tool } from '../setup/fixtures.js'

/** Works with the database of a data folder. */
async function within<T>(data: string, work: (db: Db) => Promise<T>): Promise<T> {
  process.env.LUMBRIN_DATA = data
  const database = await startDatabase(join(data, 'database'), 'lumbrin', { lasting: false })
  process.env.LUMBRIN_DATABASE_URL = database.url
  const db = connect(database.url)
  try {
    await migrate(db)
    return await work(db)
  } finally {
    await db.destroy()
    await database.stop()
  }
}

/** A data folder with a job whose source was brought in, and so lies in it. */
async function usedData(): Promise<string> {
  const data = join(scratchFolder(), 'data')
  const brought = join(data, 'brought', 'job-1', 'phone')
  mkdirSync(brought, { recursive: true })
  cpSync(demoBackup(inject('demoFolder')).folder, brought, { recursive: true })
  writeFileSync(join(data, 'address'), 'http://127.0.0.1:1/enter?key=secret')
  await within(data, async (db) => {
    const { id } = await openJob(db, briefSchema.parse({ owner: 'Odile Varga', notes: 'Ünïcode 😀 and\nlines' }))
    await addSource(db, id, brought)
  })
  return data
}

/** What a data folder says of its only job. */
const jobIn = (data: string) =>
  within(data, async (db) => {
    const [job] = await db('jobs').select('id', 'number', 'brief')
    if (!job) throw new Error('the job is gone')
    return { number: job.number, brief: job.brief, sources: await listSources(db, job.id) }
  })

describe('Lumbrin’s own data', () => {
  it('is saved and brought back elsewhere, with sources that lie in it', async () => {
    const data = await usedData()
    const before = await jobIn(data)
    const saved = join(scratchFolder(), 'saved')
    await saveOwnData(data, saved)
    expect(tool('sh', '-c', `cd '${saved}' && sha256sum --strict --quiet -c SHA256SUMS`)).toBe('')
    expect(tool('sh', '-c', `gunzip -t '${saved}/database.sql.gz' && echo whole`).trim()).toBe('whole')
    expect(tool('sh', '-c', `gunzip -c '${saved}/database.sql.gz' | tail -n 1`)).toContain('Dump completed')
    expect(statSync(join(saved, 'database.sql.gz')).mode & 0o077).toBe(0)
    // What lets browsers in is no data.
    expect(readFileSync(join(saved, 'SHA256SUMS'), 'utf8')).not.toContain('address')
    const elsewhere = join(scratchFolder(), 'new place')
    await bringOwnData(saved, elsewhere)
    const after = await jobIn(elsewhere)
    expect({ ...after, sources: [] }).toEqual({ ...before, sources: [] })
    const [source] = after.sources
    expect(source?.path).toBe(join(elsewhere, 'brought', 'job-1', 'phone'))
    expect(source?.info.path).toBe(source?.path)
    expect(statSync(join(source?.path ?? '', 'Manifest.db')).size).toBeGreaterThan(0)
  })

  it('can be moved as a folder, and its sources are found where they lie then', async () => {
    const data = await usedData()
    const moved = `${data} moved`
    renameSync(data, moved)
    const { sources } = await jobIn(moved)
    expect(sources.map(({ path }) => path)).toEqual([join(moved, 'brought', 'job-1', 'phone')])
  })

  it('is not brought over other data, nor from a damaged backup, nor saved over one', async () => {
    const data = await usedData()
    const saved = join(scratchFolder(), 'saved')
    await saveOwnData(data, saved)
    await expect(saveOwnData(data, saved)).rejects.toThrow('is not empty')
    await expect(bringOwnData(saved, data)).rejects.toThrow('There is data in')
    appendFileSync(join(saved, 'files/brought/job-1/phone/Info.plist'), ' ')
    const elsewhere = join(scratchFolder(), 'new')
    await expect(bringOwnData(saved, elsewhere)).rejects.toThrow('the backup is damaged')
    await expect(bringOwnData(scratchFolder(), elsewhere)).rejects.toThrow('holds no backup')
  })
})
