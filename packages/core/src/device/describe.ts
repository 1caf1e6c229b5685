import { isTimeZone } from '../io/time-zone.js'
import type { PlistValue } from '../plist/read.js'
import { textOf } from '../plist/read.js'
import { DeviceError, type DeviceErrorCode } from './errors.js'
import { Lockdown } from './lockdown.js'
import type { Attached, Multiplexer } from './multiplexer.js'
import { findPairRecord } from './pair-record.js'

/** How an attached device stands to this computer. The Bay has words and a way out for each. */
export const DEVICE_STATES = [
  'ready',
  'locked',
  'untrusted',
  'asking',
  'refused',
  'forgotten',
  'silent',
  'erased',
  'recovery',
] as const
export type DeviceState = (typeof DEVICE_STATES)[number]

/** What can be known of a device; null where it does not tell in its present state. */
export interface DeviceDescription {
  udid: string
  state: DeviceState
  name: string | null
  productType: string | null
  osVersion: string | null
  capacity: number | null
  free: number | null
  /** From 0 to 1. */
  battery: number | null
  charging: boolean | null
  /** Backups that it makes are locked with a password. */
  encryptsBackups: boolean | null
  /** The theft lock ("find my") is on: nothing can be returned to it. */
  theftLock: boolean | null
  flightMode: boolean | null
  /** Where its clock is set to (IANA). */
  timeZone: string | null
  serialNumber: string | null
}

/** What each error says of the device's state. */
const STATE_OF: Partial<Record<DeviceErrorCode, DeviceState>> = {
  locked: 'locked',
  'not-trusted': 'untrusted',
  'trust-pending': 'asking',
  'trust-refused': 'refused',
  forgotten: 'forgotten',
  impostor: 'forgotten',
  silent: 'silent',
  'no-service': 'silent',
  garbled: 'silent',
}

/** Looks at a device without changing anything: it is not asked for trust. @throws DeviceError('unplugged') */
export async function describeDevice(mux: Multiplexer, device: Attached): Promise<DeviceDescription> {
  const description = unknown(device.udid)
  let lockdown: Lockdown | undefined
  try {
    lockdown = await Lockdown.open(mux, device)
    Object.assign(description, await openValues(lockdown))
    if (description.state === 'erased') return description
    if (!(await findPairRecord(mux, device.udid))) return { ...description, state: 'untrusted' }
    await lockdown.startSession()
    return { ...description, ...(await sessionValues(lockdown)) }
  } catch (thrown) {
    const state = thrown instanceof DeviceError ? STATE_OF[thrown.code] : undefined
    if (!state) throw thrown
    return { ...description, state }
  } finally {
    lockdown?.close()
  }
}

function unknown(udid: string): DeviceDescription {
  return {
    udid,
    state: 'silent',
    name: null,
    productType: null,
    osVersion: null,
    capacity: null,
    free: null,
    battery: null,
    charging: null,
    encryptsBackups: null,
    theftLock: null,
    flightMode: null,
    timeZone: null,
    serialNumber: null,
  }
}

/** Told to everybody. */
async function openValues(lockdown: Lockdown): Promise<Partial<DeviceDescription>> {
  const name = textOf(await lockdown.value('DeviceName'))
  const productType = textOf(await lockdown.value('ProductType'))
  const activation = textOf(await lockdown.value('ActivationState'))
  return {
    name,
    productType,
    osVersion: lockdown.osVersion,
    // A device that was reset waits to be set up; what was on it is gone with its keys.
    state: activation === 'Unactivated' ? 'erased' : 'untrusted',
  }
}

/** Told behind a secured session. */
async function sessionValues(lockdown: Lockdown): Promise<Partial<DeviceDescription>> {
  const level = await lockdown.value('BatteryCurrentCapacity', 'com.apple.mobile.battery')
  return {
    state: (await lockdown.value('PasswordProtected')) === true ? 'locked' : 'ready',
    battery: typeof level === 'number' ? Math.min(1, Math.max(0, level / 100)) : null,
    charging: flag(await lockdown.value('BatteryIsCharging', 'com.apple.mobile.battery')),
    capacity: count(await lockdown.value('TotalDataCapacity', 'com.apple.disk_usage')),
    free: count(await lockdown.value('TotalDataAvailable', 'com.apple.disk_usage')),
    encryptsBackups: flag(await lockdown.value('WillEncrypt', 'com.apple.mobile.backup')),
    theftLock: flag(await lockdown.value('IsAssociated', 'com.apple.fmip')),
    flightMode: flag(await lockdown.value('AirplaneMode')),
    timeZone: zone(await lockdown.value('TimeZone')),
    serialNumber: textOf(await lockdown.value('SerialNumber')),
  }
}

const zone = (value: PlistValue): string | null => (typeof value === 'string' && isTimeZone(value) ? value : null)
const flag = (value: PlistValue): boolean | null => (typeof value === 'boolean' ? value : null)
const count = (value: PlistValue): number | null =>
  typeof value === 'number' || typeof value === 'bigint' ? Number(value) : null
