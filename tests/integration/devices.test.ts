import { readdir, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { Lockdown } from '@lumbrin/core/device/lockdown'
import { pair } from '@lumbrin/core/device/pairing'
import { ControlServer } from '@lumbrin/standins/device/control'
import { RecoveryBench } from '@lumbrin/standins/device/recovery'
import { describe, expect, inject, it, onTestFinished } from 'vitest'
import { listReturns } from '../../apps/workbench/src/database/bay.js'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { findJob } from '../../apps/workbench/src/database/jobs.js'
import { countFacets } from '../../apps/workbench/src/database/queries.js'
import { findRead } from '../../apps/workbench/src/database/sources.js'
import { addToTray } from '../../apps/workbench/src/database/tray.js'
import type { ReadId } from '../../apps/workbench/src/domain/ids.js'
import { askForTrust, bayNow } from '../../apps/workbench/src/services/bay.js'
import { fetchedFolder } from '../../apps/workbench/src/services/job-folder.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { previewReturn, returnTray, undoReturn } from '../../apps/workbench/src/services/returning.js'
import { beginInstall, leaveRecovery, recoveringDevices } from '../../apps/workbench/src/services/reviving.js'
import { addDevice, resumeRead, startRead, stopRead } from '../../apps/workbench/src/services/sources.js'
import { attachPhone, TEST_UDID } from '../setup/device.js'
import { demoBackup } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))
const PHONE_NAME = 'Odile’s phone'

/** A workbench with the demo's backup read for some categories, and the same phone on the cable. */
async function benchWithPhone() {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const phone = await attachPhone(inject('demoFolder'))
  process.env.USBMUXD_SOCKET_ADDRESS = `127.0.0.1:${phone.address.port}`
  onTestFinished(() => {
    delete process.env.USBMUXD_SOCKET_ADDRESS
  })
  const [attached] = await phone.mux.devices()
  if (!attached) throw new Error('no device')
  await pair(phone.mux, attached, await Lockdown.open(phone.mux, attached))
  const read = async (id: ReadId) => {
    await claimWork(bench.db, 'reads', 'test:1')
    await runRead(bench.db, id, new AbortController().signal)
    return findRead(bench.db, id)
  }
  return { ...bench, phone, read }
}

/** When each content below a folder was written. */
async function changesBelow(folder: string): Promise<Record<string, number>> {
  const found = await readdir(folder, { recursive: true })
  const contents = found.filter((path) => /[0-9a-f]{40}$/.test(path))
  return Object.fromEntries(
    await Promise.all(contents.map(async (path) => [path, (await stat(join(folder, path))).mtimeMs] as const)),
  )
}

const KINDS = ['photos', 'messages', 'contacts', 'notes'] as const

describe('a device as a source of a job', () => {
  it('gives the findings of its backup, merged with them, without a byte written to it', async () => {
    const { db, jobId, sourceId, phone, read } = await benchWithPhone()
    await read(await startRead(db, sourceId, { categories: KINDS, passes: ['live', 'residue'] }))
    const before = await countFacets(db, jobId)
    const times = await Promise.all(phone.files.list.map((file) => phone.files.changedAt(file)))
    const device = await addDevice(db, jobId, TEST_UDID)
    expect(await findJob(db, jobId)).toMatchObject({ timeZone: 'Europe/Lisbon', timeZoneOf: 'device' })
    await expect(addDevice(db, jobId, TEST_UDID)).rejects.toThrow('has that device already')
    const id = await startRead(db, device, { categories: KINDS, passes: ['live', 'residue'] })
    expect(await read(id)).toMatchObject({ state: 'done', error: null, warnings: [], fetching: null })
    // Every item is one finding with a sighting in each source.
    expect(await countFacets(db, jobId)).toEqual(before)
    expect(await Promise.all(phone.files.list.map((file) => phone.files.changedAt(file)))).toEqual(times)
    const log = await db('log').where({ job_id: jobId }).pluck('action')
    expect(log).toEqual(expect.arrayContaining(['Device added', 'Fetched']))
  })

  it('goes on where it was when the cable is pulled at fifty moments', async () => {
    const { db, jobId, phone, read } = await benchWithPhone()
    const device = await addDevice(db, jobId, TEST_UDID)
    const id = await startRead(db, device, { categories: KINDS, passes: ['live', 'residue'] })
    phone.device.set({ cableSpeed: 4_000_000 })
    let pulled = 0
    for (let round = 0; pulled < 50; round++) {
      const timer = setTimeout(() => phone.device.set({ plugged: false }), 30 + ((round * 137) % 700))
      const state = await read(id)
      clearTimeout(timer)
      if (state?.state === 'done') break
      expect(state).toMatchObject({ state: 'away', waitsFor: expect.stringContaining('plug it in again') })
      pulled++
      phone.device.set({ plugged: true })
      if (pulled === 45) phone.device.set({ cableSpeed: 0 })
      await resumeRead(db, id)
    }
    expect(pulled).toBeGreaterThan(10)
    phone.device.set({ cableSpeed: 0 })
    if ((await findRead(db, id))?.state !== 'done') expect(await read(id)).toMatchObject({ state: 'done' })
    const whole = await benchWithPhone()
    await whole.read(await startRead(whole.db, whole.sourceId, { categories: KINDS, passes: ['live', 'residue'] }))
    expect(await countFacets(db, jobId)).toEqual(await countFacets(whole.db, whole.jobId))
  })

  it('says what to do when it is locked amid a read, and widens later without fetching again', async () => {
    const { db, jobId, phone, read } = await benchWithPhone()
    const device = await addDevice(db, jobId, TEST_UDID)
    const id = await startRead(db, device, { categories: ['photos', 'messages'], passes: ['live'] })
    phone.device.set({ locked: true })
    expect(await read(id)).toMatchObject({ state: 'away', waitsFor: expect.stringContaining('Unlock it') })
    expect((await countFacets(db, jobId)).photos?.kept).toBeGreaterThan(0)
    phone.device.set({ locked: false })
    await resumeRead(db, id)
    expect(await read(id)).toMatchObject({ state: 'done' })
    const kept = await changesBelow(fetchedFolder(jobId, `device-${TEST_UDID}`))
    const wider = await startRead(db, device, { categories: ['photos', 'calls'], passes: ['live', 'residue'] })
    expect(await read(wider)).toMatchObject({ state: 'done' })
    // It is a state of its own: what was seen before keeps its date.
    const states = await db('sources').where({ kind: 'device' }).orderBy('id')
    expect(states).toHaveLength(2)
    expect(states[1]?.taken_at?.getTime()).toBeGreaterThan(states[0]?.taken_at?.getTime() ?? 0)
    // What was kept of the first read is as it was then: nothing of it came over the cable again.
    expect(await changesBelow(fetchedFolder(jobId, `device-${TEST_UDID}`))).toMatchObject(kept)
  })

  it('stops when asked while it fetches, and keeps what came', async () => {
    const { db, jobId, phone } = await benchWithPhone()
    const device = await addDevice(db, jobId, TEST_UDID)
    const id = await startRead(db, device, { categories: ['photos', 'messages'], passes: ['live'] })
    phone.device.set({ cableSpeed: 300_000 })
    await claimWork(db, 'reads', 'test:1')
    const running = runRead(db, id, new AbortController().signal)
    await sleep(1200)
    await stopRead(db, id)
    await running
    expect(await findRead(db, id)).toMatchObject({ state: 'stopped' })
  })
})

describe('the bay', () => {
  it('shows devices with their state, and asks for trust', async () => {
    const { db, phone } = await benchWithPhone()
    phone.device.pairings.clear()
    await phone.mux.deletePairRecord(TEST_UDID)
    phone.device.set({ trust: 'asking' })
    await expect(askForTrust(db, TEST_UDID)).rejects.toThrow('Confirm there')
    phone.device.set({ trust: 'yes' })
    await askForTrust(db, TEST_UDID)
    const bay = await bayNow(db)
    expect(bay.devices).toMatchObject([{ udid: TEST_UDID, state: 'ready', trustedAt: expect.any(Date) }])
  })

  it('brings a device back that does not start, the harmless way first', async () => {
    const { phone } = await benchWithPhone()
    phone.device.set({ mode: 'recovery', broken: true })
    const control = new ControlServer([phone.device], new RecoveryBench([phone.device]))
    await control.listen(0)
    onTestFinished(() => control.close())
    process.env.LUMBRIN_RECOVERY = control.address
    onTestFinished(() => {
      delete process.env.LUMBRIN_RECOVERY
    })
    const [waiting] = await recoveringDevices()
    const image = waiting?.images[0]?.id ?? ''
    expect(waiting).toMatchObject({ udid: TEST_UDID, installing: null })
    await expect(beginInstall(TEST_UDID, image, false, 'Odile’s phone')).rejects.toThrow('a better route')
    await leaveRecovery(TEST_UDID)
    expect(phone.device.switches.mode).toBe('stuck')
    phone.device.set({ mode: 'recovery' })
    await beginInstall(TEST_UDID, image, true, undefined)
    while (phone.device.switches.mode === 'recovery') await sleep(50)
    expect(phone.device.switches).toMatchObject({ mode: 'normal', erased: false, broken: false })
    phone.device.set({ mode: 'recovery' })
    // The device starts a moment before the installation is over.
    while ((await recoveringDevices())[0]?.installing?.phase === 'installing') await sleep(20)
    await expect(beginInstall(TEST_UDID, image, false, 'another name')).rejects.toThrow('Type the name')
  })
})

describe('returning to a device', () => {
  it('adds what is missing, skips what is there, refuses under the theft lock, and is undone', async () => {
    const { db, jobId, sourceId, phone, read } = await benchWithPhone()
    await read(
      await startRead(db, sourceId, { categories: ['messages', 'contacts', 'notes'], passes: ['live', 'residue'] }),
    )
    const lost = await db('findings')
      .where({ job_id: jobId })
      .whereIn('category', ['messages', 'contacts', 'notes'])
      .whereIn('standing', ['rebuilt', 'kept'])
      .orderBy('standing', 'desc')
      .pluck('id')
    await addToTray(db, jobId, lost.map(Number))
    phone.device.set({ theftLock: true })
    const plan = await previewReturn(db, jobId, TEST_UDID)
    expect(plan.device.theftLock).toBe(true)
    await expect(returnTray(db, jobId, TEST_UDID, PHONE_NAME)).rejects.toThrow('theft lock is on')
    phone.device.set({ theftLock: false })
    const adds = plan.plans.reduce((sum, { adds }) => sum + adds.length, 0)
    expect(adds).toBeGreaterThan(0)
    for (const { known, kind } of plan.plans) expect(known, kind).toBeGreaterThan(0)
    expect(await returnTray(db, jobId, TEST_UDID, PHONE_NAME)).toBe(adds)
    expect(await returnTray(db, jobId, TEST_UDID, PHONE_NAME)).toBe(0)
    for (const row of await listReturns(db, jobId)) await undoReturn(db, jobId, row.id)
    const after = await previewReturn(db, jobId, TEST_UDID)
    expect(after.plans.map(({ before, kind }) => [kind, before])).toEqual(
      plan.plans.map(({ before, kind }) => [kind, before]),
    )
    const log = await db('log').where({ job_id: jobId }).pluck('action')
    expect(log).toEqual(expect.arrayContaining(['Returned to device', 'Return undone']))
  })
})
