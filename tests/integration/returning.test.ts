import { Lockdown } from '@lumbrin/core/device/lockdown'
import { pair } from '@lumbrin/core/device/pairing'
import { describe, expect, inject, it, onTestFinished } from 'vitest'
import { listReturns } from '../../apps/workbench/src/database/bay.js'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { listLog } from '../../apps/workbench/src/database/log.js'
import { jobDevices } from '../../apps/workbench/src/database/states.js'
import { addToTray } from '../../apps/workbench/src/database/tray.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { JobId, SourceId } from '../../apps/workbench/src/domain/ids.js'
import { sayDeviceRole } from '../../apps/workbench/src/services/devices.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { previewReturn, returnTargets, returnTray } from '../../apps/workbench/src/services/returning.js'
import { addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { attachPhone, TEST_UDID } from '../setup/device.js'
import { demoBackup } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

// docs/truth.md, rule 20.

const { folder } = demoBackup(inject('demoFolder'))
const legacy = demoBackup(inject('demoFolder'), 'legacy').folder
const PHONE_NAME = 'Odile’s phone'

/** The owner's phone on the cable, and contacts of it in the tray of its job. */
async function benchWithPhone() {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const phone = await attachPhone(inject('demoFolder'))
  process.env.USBMUXD_SOCKET_ADDRESS = `127.0.0.1:${phone.address.port}`
  onTestFinished(() => void delete process.env.USBMUXD_SOCKET_ADDRESS)
  const [attached] = await phone.mux.devices()
  if (!attached) throw new Error('no device')
  await pair(phone.mux, attached, await Lockdown.open(phone.mux, attached))
  const readContacts = async (jobId: JobId, source: SourceId) => {
    const id = await startRead(bench.db, source, { categories: ['contacts'], passes: ['live', 'residue'] })
    expect(await claimWork(bench.db, 'reads', 'test:1')).toBe(id)
    await runRead(bench.db, id, new AbortController().signal)
    await addToTray(bench.db, jobId, (await bench.db('findings').where({ job_id: jobId }).pluck('id')).map(Number))
  }
  await readContacts(bench.jobId, bench.sourceId)
  return { ...bench, phone, readContacts }
}

describe('returning to a device', () => {
  it('is offered for the owner’s devices, and needs the name of the one that was looked at', async () => {
    const { db, jobId } = await benchWithPhone()
    await expect
      .poll(() => returnTargets(db, jobId), { timeout: 240_000 })
      .toEqual([{ udid: TEST_UDID, name: PHONE_NAME }])
    for (const wrong of ['', 'odile’s phone', 'Bram’s phone', TEST_UDID])
      await expect(returnTray(db, jobId, TEST_UDID, wrong), wrong).rejects.toThrow('not confirmed by its name')
    expect(await listReturns(db, jobId)).toEqual([])
    const { plans } = await previewReturn(db, jobId, TEST_UDID)
    const adds = plans.reduce((sum, one) => sum + one.adds.length, 0)
    expect(adds).toBeGreaterThan(0)
    expect(await returnTray(db, jobId, TEST_UDID, PHONE_NAME)).toBe(adds)
    expect((await listLog(db, jobId))[0]).toMatchObject({ action: 'Returned to device' })
  })

  it('is refused towards the device of another job, and changes nothing there', async () => {
    const { db, readContacts } = await benchWithPhone()
    const other = await openJob(db, briefSchema.parse({ owner: 'Bram Okafor' }))
    await readContacts(other.id, await addSource(db, other.id, legacy))
    expect(await returnTargets(db, other.id)).toEqual([])
    for (const attempt of [
      () => previewReturn(db, other.id, TEST_UDID),
      () => returnTray(db, other.id, TEST_UDID, PHONE_NAME),
    ])
      await expect(attempt()).rejects.toMatchObject({
        code: 'conflict',
        message: expect.stringContaining('not one of'),
      })
    expect(await listReturns(db, other.id)).toEqual([])
  })

  it('is refused once it is said that the device is somebody else’s', async () => {
    const { db, jobId } = await benchWithPhone()
    const { devices } = await jobDevices(db, jobId)
    await sayDeviceRole(db, jobId, devices[0]?.key ?? '', 'other')
    expect(await returnTargets(db, jobId)).toEqual([])
    await expect(returnTray(db, jobId, TEST_UDID, PHONE_NAME)).rejects.toMatchObject({ code: 'conflict' })
    await sayDeviceRole(db, jobId, devices[0]?.key ?? '', 'owner')
    await expect.poll(() => returnTargets(db, jobId), { timeout: 240_000 }).toHaveLength(1)
  })

  it('is not offered where the device is locked or away, and writes nothing then', async () => {
    const { db, jobId, phone } = await benchWithPhone()
    const offered = () => returnTargets(db, jobId)
    await expect.poll(offered, { timeout: 240_000 }).toHaveLength(1)
    phone.device.set({ locked: true })
    await expect.poll(offered, { timeout: 240_000 }).toEqual([])
    phone.device.set({ locked: false, plugged: false })
    await expect.poll(offered, { timeout: 240_000 }).toEqual([])
    await expect(returnTray(db, jobId, TEST_UDID, PHONE_NAME)).rejects.toThrow()
    expect(await listReturns(db, jobId)).toEqual([])
  })
})
