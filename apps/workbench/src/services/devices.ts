import type { Db } from '../database/connection.js'
import { sayDeviceTimeZone } from '../database/jobs.js'
import { appendLog } from '../database/log.js'
import { findSource, sayDevice, sayName } from '../database/sources.js'
import { jobDevices, loadSaid, saveSaid } from '../database/states.js'
import { AppError } from '../domain/errors.js'
import type { JobId, SourceId } from '../domain/ids.js'
import { type DeviceRole, sourceName } from '../domain/labels.js'
import { forget } from './cached.js'
import { requireOpenJob } from './jobs.js'
import { settle } from './settling.js'

/** Says of which device a source is; null: what it says of itself counts. @throws AppError */
export async function saySourceDevice(db: Db, sourceId: SourceId, key: string | null): Promise<void> {
  const source = await findSource(db, sourceId)
  if (!source) throw new AppError('not-found', 'There is no such source.')
  await requireOpenJob(db, source.jobId)
  const { devices } = await jobDevices(db, source.jobId)
  const device = devices.find((one) => one.key === key)
  if (key !== null && (!device || device.role === 'account'))
    throw new AppError('invalid', 'This job has no such device.')
  await sayDevice(db, sourceId, key)
  const name = source.info.deviceName ?? source.path
  await appendLog(db, source.jobId, 'Device of a source', `${name}: ${device ? device.name : 'as it says itself'}`)
  await resettle(db, source.jobId)
}

/** Says what a source is called; an empty text: as it calls itself. @throws AppError */
export async function saySourceName(db: Db, sourceId: SourceId, name: string): Promise<void> {
  const source = await findSource(db, sourceId)
  if (!source) throw new AppError('not-found', 'There is no such source.')
  await requireOpenJob(db, source.jobId)
  await sayName(db, sourceId, name || null)
  await appendLog(db, source.jobId, 'Source named', `${sourceName(source.info)}: ${name || 'as it calls itself'}`)
  forget(source.jobId)
}

/** Says whose a device is, or that the brief is about it. @throws AppError */
export async function sayDeviceRole(db: Db, jobId: JobId, key: string, role: DeviceRole): Promise<void> {
  await requireOpenJob(db, jobId)
  const device = (await jobDevices(db, jobId)).devices.find((one) => one.key === key)
  if (!device || device.role === 'account') throw new AppError('not-found', 'This job has no such device.')
  const said = await loadSaid(db, jobId)
  const others = said.others.filter((one) => one !== key)
  await saveSaid(db, jobId, {
    brief: role === 'brief' ? key : said.brief === key ? null : said.brief,
    others: role === 'other' ? [...others, key] : others,
  })
  const words = {
    brief: 'the brief is about it',
    owner: 'the owner’s, and not that of the brief',
    other: 'somebody else’s',
  }
  await appendLog(db, jobId, 'Whose a device is', `${device.name}: ${words[role]}`)
  await resettle(db, jobId)
}

/** Lets a job go by the zone of its first device. The days of the loss begin elsewhere then: claims are worked out again. */
export async function goByDeviceZone(db: Db, jobId: JobId, zone: string): Promise<void> {
  if (await sayDeviceTimeZone(db, jobId, zone)) await resettle(db, jobId)
}

/** What claims follow from, apart from what was read: the device of each source, and which is that of the brief. */
export async function deviceStamp(db: Db, jobId: JobId): Promise<string> {
  const { keys, brief } = await jobDevices(db, jobId)
  return JSON.stringify([brief, [...keys].sort(([a], [b]) => a - b)])
}

/** Works claims out again where a change of the job's sources made other devices of them. */
export async function settleIfChanged(db: Db, jobId: JobId, before: string): Promise<void> {
  const { keys, brief } = await jobDevices(db, jobId)
  const [briefBefore, keysBefore] = JSON.parse(before) as [string | null, [number, string][]]
  const same = keysBefore.every(([id, key]) => !keys.has(id) || keys.get(id) === key)
  if (brief !== briefBefore || !same) await resettle(db, jobId)
}

async function resettle(db: Db, jobId: JobId): Promise<void> {
  await settle(db, jobId)
  forget(jobId)
}
