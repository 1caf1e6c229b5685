import { describe, expect, inject, it, vi } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { facetsOf, jobProgress } from '../../apps/workbench/src/services/progress.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { startRead } from '../../apps/workbench/src/services/sources.js'
import { demoBackup } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

describe('what a page is told of a job', () => {
  it('counts all that a read found as soon as it says that the read is done', async () => {
    const { db, jobId, sourceId } = await workbenchWith(inject('databaseUrl'), demoBackup(inject('demoFolder')).folder)
    const read = await startRead(db, sourceId, { categories: ['contacts'], passes: ['live'] })
    // Counting seems to take an hour, so that what was counted would be kept for five.
    let now = Date.now()
    const clock = vi.spyOn(Date, 'now').mockImplementation(() => (now += 3_600_000))
    await jobProgress(db, jobId)
    expect(await facetsOf(db, jobId, '')).toEqual({})
    clock.mockRestore()
    await claimWork(db, 'reads', 'test:1')
    await runRead(db, read, new AbortController().signal)
    const { reads } = await jobProgress(db, jobId)
    expect(reads[0]?.state).toBe('done')
    const counted = Object.values((await facetsOf(db, jobId, '')).contacts ?? {}).reduce((sum, one) => sum + one, 0)
    const [rows] = await db('findings').where({ job_id: jobId }).count({ n: '*' })
    expect(counted).toBe(Number(rows?.n))
    expect(counted).toBeGreaterThan(10)
  })
})
