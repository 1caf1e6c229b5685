import type { Sighting } from '@lumbrin/core/categories/types'
import type { DeviceDescription } from '@lumbrin/core/device/describe'
import type { ListValue } from '@lumbrin/core/device/lists'
import { Lockdown } from '@lumbrin/core/device/lockdown'
import { Multiplexer } from '@lumbrin/core/device/multiplexer'
import { RETURN_KINDS, type ReturnKind, ReturnService } from '@lumbrin/core/device/returns'
import { deviceKeyOf } from '@lumbrin/core/findings/devices'
import { insertReturn, listReturns, markUndone } from '../database/bay.js'
import type { Db } from '../database/connection.js'
import { appendLog } from '../database/log.js'
import { jobDevices } from '../database/states.js'
import { trayItems } from '../database/tray.js'
import type { ReturnEntry, ReturnPlan, ReturnPreview } from '../domain/bay.js'
import { AppError } from '../domain/errors.js'
import { plural } from '../domain/format.js'
import type { JobId, ReturnId } from '../domain/ids.js'
import { CATEGORY_LABELS } from '../domain/labels.js'
import { bayNow, requireDevice, requireReadable } from './bay.js'

interface Returnable {
  title: string
  item: { [key: string]: ListValue }
}

// Returning is for what the owner misses, not for copying a phone.
const MOST_ITEMS = 5000

/** What a return of the tray's contacts, notes and messages would change. Nothing is changed by looking. */
export async function previewReturn(db: Db, jobId: JobId, udid: string): Promise<ReturnPreview> {
  await requireOwnersDevice(db, jobId, udid)
  const { name, theftLock } = await requireReadable(udid)
  const { items, left } = await returnables(db, jobId)
  const plans = await withService(udid, async (service) => {
    const all: ReturnPlan[] = []
    for (const kind of RETURN_KINDS) {
      const mine = items.get(kind) ?? []
      if (mine.length === 0) continue
      const { count, known } = await service.preview(
        kind,
        mine.map(({ item }) => item),
      )
      const adds = mine.filter((_, index) => !known[index]).map(({ title }) => ({ title }))
      all.push({ kind, before: count, adds, known: mine.length - adds.length })
    }
    return all
  })
  return { device: { udid, name, theftLock }, plans, left }
}

/** Devices on the cables that items of a job may go back to. */
export async function returnTargets(db: Db, jobId: JobId): Promise<Pick<DeviceDescription, 'udid' | 'name'>[]> {
  const [{ devices }, keys] = await Promise.all([bayNow(db), ownersDevices(db, jobId)])
  return devices
    .filter(({ state, udid }) => state === 'ready' && keys.has(deviceKeyOf(udid)))
    .map(({ udid, name }) => ({ udid, name }))
}

async function ownersDevices(db: Db, jobId: JobId): Promise<Set<string>> {
  const { devices } = await jobDevices(db, jobId)
  return new Set(devices.filter(({ role }) => role === 'brief' || role === 'owner').map(({ key }) => key))
}

/** @throws AppError where the device is not one of the owner of this job (docs/truth.md, rule 20) */
async function requireOwnersDevice(db: Db, jobId: JobId, udid: string): Promise<void> {
  if ((await ownersDevices(db, jobId)).has(deviceKeyOf(udid))) return
  throw new AppError(
    'conflict',
    'This device is not one of the owner of this job. Nothing was returned. If it is the owner’s, add it in Sources first.',
  )
}

/**
 * Returns what the preview said, to a device of the job's owner that was confirmed by its name. What was added is on
 * record, and can be taken back.
 */
export async function returnTray(db: Db, jobId: JobId, udid: string, confirmed: string): Promise<number> {
  await requireOwnersDevice(db, jobId, udid)
  const { name } = await requireReadable(udid)
  if (confirmed !== (name ?? udid))
    throw new AppError('conflict', 'The device was not confirmed by its name. Nothing was returned; look again.')
  const { items } = await returnables(db, jobId)
  return withService(udid, async (service) => {
    let count = 0
    for (const kind of RETURN_KINDS) {
      const mine = items.get(kind) ?? []
      if (mine.length === 0) continue
      const { before, after, added } = await service.add(
        kind,
        mine.map(({ item }) => item),
      )
      const ids = added.filter((id) => id > 0)
      if (ids.length === 0) continue
      const titles = mine.filter((_, index) => (added[index] ?? 0) > 0).map(({ title }) => title)
      await insertReturn(db, jobId, { udid, deviceName: name ?? udid, kind, ids, titles, at: new Date() })
      await appendLog(
        db,
        jobId,
        'Returned to device',
        `${name ?? udid}: ${CATEGORY_LABELS[kind]}: ${plural(ids.length, 'item')}; ${before} before, ${after} after`,
      )
      count += ids.length
    }
    return count
  })
}

/** Takes a return back. */
export async function undoReturn(db: Db, jobId: JobId, id: ReturnId): Promise<void> {
  const row = (await listReturns(db, jobId)).find((one) => one.id === id)
  if (!row) throw new AppError('not-found', 'There is no such return.')
  if (row.undoneAt) throw new AppError('conflict', 'This return was undone before.')
  const { before, after } = await withService(row.udid, (service) => service.remove(row.kind as ReturnKind, row.ids))
  await markUndone(db, id)
  await appendLog(
    db,
    jobId,
    'Return undone',
    `${row.deviceName}: ${CATEGORY_LABELS[row.kind]}: ${plural(row.ids.length, 'item')}; ${before} before, ${after} after`,
  )
}

async function withService<T>(udid: string, work: (service: ReturnService) => Promise<T>): Promise<T> {
  const mux = new Multiplexer()
  const lockdown = await Lockdown.session(mux, await requireDevice(udid))
  try {
    const service = await ReturnService.open(lockdown)
    try {
      return await work(service)
    } finally {
      service.close()
    }
  } finally {
    lockdown.close()
  }
}

async function returnables(db: Db, jobId: JobId) {
  const items = new Map<ReturnKind, Returnable[]>()
  const left: ReturnPreview['left'] = []
  let count = 0
  for await (const { sighting } of trayItems(db, jobId)) {
    const kind = RETURN_KINDS.find((one) => one === sighting.category)
    if (!kind) continue
    if (++count > MOST_ITEMS) throw new AppError('invalid', `More than ${MOST_ITEMS} items at once cannot be returned.`)
    const made = MAKERS[kind](sighting)
    if (typeof made === 'string') left.push({ title: sighting.title, why: made })
    else items.set(kind, [...(items.get(kind) ?? []), { title: sighting.title, item: withoutEmpty(made) }])
  }
  return { items, left }
}

type Made = { [key: string]: ListValue | null | undefined }

/** Each kind as the device takes it; a text says why it cannot go back. */
const MAKERS: Record<ReturnKind, (sighting: Sighting) => Made | string> = {
  contacts: ({ fields }) => ({
    GivenName: textOf(fields.givenName),
    FamilyName: textOf(fields.familyName),
    Organization: textOf(fields.organization),
    Note: textOf(fields.note),
    Phones: valuesOf(fields.phones),
    Emails: valuesOf(fields.emails),
  }),
  notes: ({ fields, title }) =>
    fields.locked === true
      ? 'It is locked with a password of its own.'
      : { Title: title, Body: textOf(fields.body) ?? title },
  messages: ({ fields, text, when }) => {
    const others = Array.isArray(fields.recipients) ? fields.recipients : []
    const address = textOf(fields.direction === 'out' ? others[0] : fields.sender)
    if (!address || others.length > 1) return 'It belongs to a group, or it is not known with whom it was.'
    if (!text) return 'Its text was lost.'
    return {
      Guid: textOf(fields.guid),
      Text: text,
      Address: address,
      Outgoing: fields.direction === 'out',
      SentAt: when,
      Service: textOf(fields.service),
    }
  },
}

const textOf = (value: unknown): string | null => (typeof value === 'string' && value !== '' ? value : null)
const valuesOf = (value: unknown): string[] =>
  Array.isArray(value) ? value.flatMap((one) => textOf((one as { value?: unknown } | null)?.value) ?? []) : []

function withoutEmpty(made: Made): { [key: string]: ListValue } {
  const kept = Object.entries(made).filter(([, value]) => value !== null && value !== undefined)
  return Object.fromEntries(kept) as { [key: string]: ListValue }
}

/** What went back to devices in a job, the newest first. */
export const returnsOf = (db: Db, jobId: JobId): Promise<ReturnEntry[]> => listReturns(db, jobId)
