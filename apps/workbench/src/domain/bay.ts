import { DEVICE_STATES } from '@lumbrin/core/device/describe'
import { RETURN_KINDS } from '@lumbrin/core/device/returns'
import { z } from 'zod'
import { bayEvent } from './bay-rules.js'
import { count } from './core-values.js'
import { returnId } from './ids.js'
import { time } from './time.js'

const text = z.string().nullable()
const flag = z.boolean().nullable()

/** What can be known of a device; null where it does not tell in its present state. */
const description = z.strictObject({
  udid: z.string(),
  state: z.enum(DEVICE_STATES),
  name: text,
  productType: text,
  osVersion: text,
  capacity: z.number().nullable(),
  free: z.number().nullable(),
  /** From 0 to 1. */
  battery: z.number().nullable(),
  charging: flag,
  /** Backups that it makes are locked with a password. */
  encryptsBackups: flag,
  /** The theft lock ("find my") is on: nothing can be returned to it. */
  theftLock: flag,
  flightMode: flag,
  timeZone: text,
  serialNumber: text,
})

/** A device in the bay. */
export const bayDevice = description.extend({
  /** When a session with this computer last worked; null: never, as far as is known. */
  trustedAt: time.nullable(),
})

/** How an installation goes. */
const installing = z.strictObject({
  phase: z.enum(['fetching', 'installing', 'done', 'failed']),
  /** From 0 to 1. */
  share: z.number(),
  message: text,
})

const systemImage = z.strictObject({
  id: z.string(),
  productType: z.string(),
  version: z.string(),
  bytes: count,
  sha256: z.string(),
})

/** A device that does not start. */
export const recoveringDevice = z.strictObject({
  udid: z.string(),
  name: text,
  productType: z.string(),
  images: z.array(systemImage),
  installing: installing.nullable(),
})

export const bay = z.strictObject({
  /** Null: the multiplexer answers; else why nothing can be seen. */
  problem: text,
  devices: z.array(bayDevice),
  recovering: z.array(recoveringDevice),
  /** Bytes free where what is read is kept. */
  freeHere: count,
  /** The demo's page with switches; null: the devices are real. */
  controls: text,
  /** What rules did with devices lately, the newest first. */
  events: z.array(bayEvent),
})

/** A device that items of a job may go back to. */
export const returnTarget = z.strictObject({ udid: z.string(), name: text })

/** What a return of one kind would do. */
const returnPlan = z.strictObject({
  kind: z.enum(RETURN_KINDS),
  /** Items of this kind on the device now. */
  before: count,
  /** In the tray and not on the device. */
  adds: z.array(z.strictObject({ title: z.string() })),
  /** In the tray and on the device already. */
  known: count,
})

export const returnPreview = z.strictObject({
  device: description.pick({ udid: true, name: true, theftLock: true }),
  plans: z.array(returnPlan),
  /** Items of the tray that cannot go back, with the reason. */
  left: z.array(z.strictObject({ title: z.string(), why: z.string() })),
})

/** Items that went back to a device at once. */
export const returnEntry = z.strictObject({
  id: returnId,
  udid: z.string(),
  deviceName: z.string(),
  kind: z.enum(RETURN_KINDS),
  ids: z.array(z.number().int()),
  titles: z.array(z.string()),
  at: time,
  undoneAt: time.nullable(),
})

export type ReturnEntry = z.output<typeof returnEntry>
export type BayDevice = z.output<typeof bayDevice>
export type Bay = z.output<typeof bay>
export type Installing = z.output<typeof installing>
export type RecoveringDevice = z.output<typeof recoveringDevice>
export type ReturnPlan = z.output<typeof returnPlan>
export type ReturnPreview = z.output<typeof returnPreview>
