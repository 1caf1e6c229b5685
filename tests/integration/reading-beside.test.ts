import { setTimeout as sleep } from 'node:timers/promises'
import type { SourceInfo } from '@lumbrin/core/backup/types'
import { describe, expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { insertRead, insertSource, moveRead } from '../../apps/workbench/src/database/sources.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { JobId, ReadId } from '../../apps/workbench/src/domain/ids.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { changeSettings, versionedSettings } from '../../apps/workbench/src/services/settings.js'
import { addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { demoBackup } from '../setup/fixtures.js'
import { claimsIn, startReader, type Workbench, workbenchWith } from './workbench.js'

const [plain, legacy] = (['plain', 'legacy'] as const).map((one) => demoBackup(inject('demoFolder'), one).folder)

/** A job with two backups, both of which wait to be read. */
async function twoWaiting(): Promise<Workbench & { reads: ReadId[] }> {
  const bench = await workbenchWith(inject('databaseUrl'), plain ?? '')
  const second = await addSource(bench.db, bench.jobId, legacy ?? '')
  const reads = [await bench.startRead(), await startRead(bench.db, second, {})]
  return { ...bench, reads }
}

async function setReadsAtOnce(db: Db, readsAtOnce: number): Promise<void> {
  const { settings, version } = await versionedSettings(db)
  await changeSettings(db, { ...settings, readsAtOnce }, version)
}

const going = ({ db }: Workbench): Promise<(string | null)[]> =>
  db('reads').where({ state: 'running' }).whereNotNull('claimed_by').pluck('claimed_by')

async function untilAllDone(bench: Workbench, meanwhile: (workers: (string | null)[]) => void): Promise<void> {
  for (;;) {
    const states = await bench.db('reads').pluck('state')
    expect(states).not.toContain('failed')
    if (states.every((state) => state === 'done')) return
    meanwhile(await going(bench))
    await sleep(20)
  }
}

describe('sources that wait to be read', () => {
  it('are read side by side, to the same end as one after the other, though a process is killed', async () => {
    const one = await twoWaiting()
    for (const id of one.reads) {
      await claimWork(one.db, 'reads', 'test:1')
      await runRead(one.db, id, new AbortController().signal)
    }
    const wanted = await claimsIn(one)

    const both = await twoWaiting()
    await setReadsAtOnce(both.db, 2)
    startReader(both)
    let most = 0
    let killed = false
    await untilAllDone(both, (workers) => {
      most = Math.max(most, new Set(workers).size)
      const pid = workers
        .find((worker) => worker?.includes(':beside:'))
        ?.split(':')
        .at(-1)
      if (pid === undefined || killed) return
      process.kill(Number(pid), 'SIGKILL')
      killed = true
    })
    expect({ most, killed }).toEqual({ most: 2, killed: true })
    expect(await claimsIn(both)).toEqual(wanted)
  })

  it('are read one after the other where Settings say so', async () => {
    const bench = await twoWaiting()
    await setReadsAtOnce(bench.db, 1)
    startReader(bench)
    let most = 0
    await untilAllDone(bench, (workers) => {
      most = Math.max(most, workers.length)
    })
    expect(most).toBe(1)
  })
})

describe('an attached device', () => {
  it('is read for one job at a time', async () => {
    const { db, jobId } = await workbenchWith(inject('databaseUrl'), plain ?? '')
    const other = await openJob(db, briefSchema.parse({ owner: 'Somebody else' }))
    const first = await readOfDevice(db, jobId, 'device 1')
    const same = await readOfDevice(db, other.id, 'device 1')
    const another = await readOfDevice(db, other.id, 'device 2')
    expect(await claimWork(db, 'reads', 'a:1')).toBe(first)
    expect(await claimWork(db, 'reads', 'b:2')).toBe(another)
    expect(await claimWork(db, 'reads', 'c:3')).toBeUndefined()
    await moveRead(db, first, ['running'], 'done')
    expect(await claimWork(db, 'reads', 'c:3')).toBe(same)
  })

  it('is claimed once where two workers claim at the same moment', async () => {
    const { db, jobId } = await workbenchWith(inject('databaseUrl'), plain ?? '')
    const other = await openJob(db, briefSchema.parse({ owner: 'Somebody else' }))
    await readOfDevice(db, jobId, 'device 1')
    await readOfDevice(db, other.id, 'device 1')
    for (let round = 0; round < 100; round++) {
      const claimed = await Promise.all(['a:1', 'b:2'].map((worker) => claimWork(db, 'reads', worker)))
      expect(claimed.filter((id) => id !== undefined)).toHaveLength(1)
      await db('reads').update({ state: 'queued', claimed_by: null })
    }
  })
})

async function readOfDevice(db: Db, jobId: JobId, uniqueId: string): Promise<ReadId> {
  const info: SourceInfo = {
    ...{ kind: 'device', layout: 'collected', path: `/made/${jobId}/${uniqueId}`, uniqueId, deviceName: uniqueId },
    ...{ productType: null, osVersion: null, serialNumber: null, takenAt: null, encrypted: false },
    ...{ installedApps: [], complete: true },
  }
  const id = await insertSource(db, jobId, info, { bytes: 0, files: 0 })
  if (id === undefined) throw new Error('the job has that device already')
  const source = {
    id,
    jobId,
    info,
    path: info.path,
    takenAt: null,
    bytes: 0,
    files: 0,
    saidDevice: null,
    saidName: null,
  }
  return insertRead(db, source, [{ category: 'notes', pass: 'live' }])
}
