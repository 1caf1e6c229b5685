import { Random } from '@lumbrin/standins/random'
import { describe, expect, inject, it } from 'vitest'
import { listBayEvents } from '../../apps/workbench/src/database/bay-events.js'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { listLog } from '../../apps/workbench/src/database/log.js'
import { listReads, listSources } from '../../apps/workbench/src/database/sources.js'
import { type BayRules, NO_RULES } from '../../apps/workbench/src/domain/bay-rules.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { JobId } from '../../apps/workbench/src/domain/ids.js'
import { changeRules, followBay, tryRules, versionedRules } from '../../apps/workbench/src/services/bay-rules.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { addSource } from '../../apps/workbench/src/services/sources.js'
import { phones } from '../setup/phones.js'
import type { Shelved } from '../setup/shelf.js'
import { migratedDatabase } from './workbench.js'

const RULES: BayRules = { known: 'read', unknown: 'open-job', preset: 'brief', tell: false }

async function jobFor(db: Db, { folder, deviceName }: Shelved): Promise<JobId> {
  const { id } = await openJob(db, briefSchema.parse({ owner: `Owner of ${deviceName}`, categories: ['messages'] }))
  await addSource(db, id, folder)
  return id
}

const setRules = async (db: Db, rules: BayRules) => changeRules(db, rules, (await versionedRules(db)).version)

/** All that was done, the oldest first, as "name act". */
const done = async (db: Db) => (await db('bay_events').orderBy('id')).map(({ name, act }) => `${name} ${act}`)

/** Reads are of another test: here they end at once. */
const endReads = (db: Db) => db('reads').where({ state: 'queued' }).update({ state: 'failed' })

describe('rules of the bay', () => {
  it('deal with each of six devices once, in whatever order they come, twenty times', async () => {
    const { db } = await migratedDatabase(inject('databaseUrl'))
    const six = await phones(6)
    const jobs = new Map<string, JobId>()
    for (const { backup } of six.slice(0, 3)) jobs.set(backup.deviceName, await jobFor(db, backup))
    await setRules(db, RULES)
    const random = new Random(11)
    const should: string[] = []
    for (let round = 0; round < 20; round++) {
      const order = [...six].sort(() => random.next() - 0.5)
      for (const { phone, backup } of order) {
        phone.set({ plugged: true })
        await followBay(db)
        // Looked at again, nothing is done again.
        if (random.chance(0.5)) await followBay(db)
        should.push(`${backup.deviceName} ${round === 0 && !jobs.has(backup.deviceName) ? 'open-job' : 'read'}`)
        // Some are unplugged before others come.
        if (random.chance(0.3)) phone.set({ plugged: false })
      }
      for (const { phone } of six) phone.set({ plugged: false })
      await followBay(db)
      await endReads(db)
    }
    expect(await done(db)).toEqual(should)
    // Three jobs were there, and three were opened, each with its device.
    expect(await db('jobs').pluck('id')).toHaveLength(6)
    for (const { id, brief } of await db('jobs')) {
      const sources = await listSources(db, id)
      const name = jobs.size > 0 && [...jobs].find(([, job]) => job === id)?.[0]
      const device = sources.filter(({ info }) => info.kind === 'device')
      expect(new Set(device.map(({ info }) => info.deviceName)).size, brief).toBe(1)
      if (name) expect(device[0]?.info.deviceName).toBe(name)
    }
    const [first] = jobs.values()
    const log = await listLog(db, first as JobId)
    expect(log.find(({ action }) => action === 'Read started')?.operator).toBe('a rule of the bay')
    expect((await listReads(db, first as JobId))[0]?.steps.map(({ category }) => category)).toContain('messages')
  })

  it('wait for a locked phone, and leave alone what was there before', async () => {
    const { db } = await migratedDatabase(inject('databaseUrl'))
    const [one, two] = await phones(2)
    if (!one || !two) return expect.unreachable()
    one.phone.set({ plugged: true })
    await setRules(db, { ...RULES, unknown: 'read' })
    two.phone.set({ plugged: true, locked: true })
    for (let looks = 0; looks < 3; looks++) await followBay(db)
    expect(await done(db)).toEqual(['null there', 'Phone 2 waits'])
    expect(await listBayEvents(db)).toMatchObject([{ name: 'Phone 2', act: 'waits', jobId: null }])
    two.phone.set({ locked: false })
    for (let looks = 0; looks < 3; looks++) await followBay(db)
    expect(await listBayEvents(db)).toMatchObject([{ name: 'Phone 2', act: 'read', readState: 'queued', goneAt: null }])
    expect(await db('jobs').pluck('owner')).toEqual(['Owner of Phone 2'])
    // Switched off, nothing is looked at any more.
    await setRules(db, NO_RULES)
    one.phone.set({ plugged: false })
    await followBay(db)
    one.phone.set({ plugged: true })
    await followBay(db)
    expect(await done(db)).toHaveLength(2)
  })

  it('do not begin again what a process died amid, and say what could not be done', async () => {
    const { db } = await migratedDatabase(inject('databaseUrl'))
    const [one, two] = await phones(2)
    if (!one || !two) return expect.unreachable()
    const job = await jobFor(db, one.backup)
    await setRules(db, RULES)
    one.phone.set({ plugged: true })
    await db('bay_events').insert({ udid: one.backup.udid, act: 'begun', said: '', came_at: new Date() })
    await followBay(db)
    expect(await listReads(db, job)).toEqual([])
    // It is plugged in again while its read waits still.
    one.phone.set({ plugged: false })
    await followBay(db)
    for (let times = 0; times < 2; times++) {
      one.phone.set({ plugged: true })
      await followBay(db)
      one.phone.set({ plugged: false })
      await followBay(db)
    }
    const [again, first] = await listBayEvents(db)
    expect(first).toMatchObject({ act: 'read', jobId: job })
    expect(again).toMatchObject({ act: 'failed', said: expect.stringContaining('being read'), jobId: job })
  })

  it('are tried without anything being done, and one save does not undo another', async () => {
    const { db } = await migratedDatabase(inject('databaseUrl'))
    const [one, two] = await phones(2)
    if (!one || !two) return expect.unreachable()
    const job = await jobFor(db, one.backup)
    one.phone.set({ plugged: true })
    two.phone.set({ plugged: true })
    await expect
      .poll(async () => (await tryRules(db, RULES)).map(({ name, act, job: of }) => [name, act, of?.id ?? null]))
      .toEqual([
        ['Phone 1', 'read', job],
        ['Phone 2', 'open-job', null],
      ])
    expect(await db('jobs').pluck('id')).toHaveLength(1)
    expect(await done(db)).toEqual([])
    const { version } = await versionedRules(db)
    await changeRules(db, RULES, version)
    await expect(changeRules(db, NO_RULES, version)).rejects.toThrow('Somebody else saved rules')
    expect((await versionedRules(db)).rules).toEqual(RULES)
  })
})
