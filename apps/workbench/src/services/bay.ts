import { statfs } from 'node:fs/promises'
import { DEVICE_STATES, type DeviceDescription, describeDevice } from '@lumbrin/core/device/describe'
import { DeviceError } from '@lumbrin/core/device/errors'
import { Lockdown } from '@lumbrin/core/device/lockdown'
import { type Attached, Multiplexer } from '@lumbrin/core/device/multiplexer'
import { pair } from '@lumbrin/core/device/pairing'
import { messageOf } from '@lumbrin/core/io/errors'
import { readConfig } from '../config.js'
import { rememberTrust, trustedAt } from '../database/bay.js'
import { listBayEvents } from '../database/bay-events.js'
import type { Db } from '../database/connection.js'
import type { Bay } from '../domain/bay.js'
import { AppError } from '../domain/errors.js'
import { recoveringDevices } from './reviving.js'

// A device that hangs must not hold up the view of the others for long.
const PATIENCE_MS = 4000
const FRESH_MS = 1500
const FIRST_LOOK_MS = 1200

const mux = () => new Multiplexer(undefined, PATIENCE_MS)
const described = new Map<string, DeviceDescription>()
let looked = 0
let looking: Promise<void> | undefined
let problem: string | null = null

/** What is on the cables now. It is looked at again while somebody asks; a device that hangs shows as it was. */
export async function bayNow(db: Db): Promise<Bay> {
  if (Date.now() - looked > FRESH_MS) looking ??= look(db).finally(() => (looking = undefined))
  if (looked === 0) await Promise.race([looking, new Promise((go) => setTimeout(go, FIRST_LOOK_MS))])
  const trusted = await trustedAt(db, [...described.keys()])
  const { dataFolder, recoveryChannel } = readConfig()
  const { bavail, bsize } = await statfs(dataFolder)
  return {
    problem,
    devices: [...described.values()]
      .sort((a, b) => order(a) - order(b) || (a.name ?? a.udid).localeCompare(b.name ?? b.udid, 'en'))
      .map((device) => ({ ...device, trustedAt: trusted.get(device.udid) ?? null })),
    recovering: await recoveringDevices(),
    freeHere: bavail * bsize,
    controls: recoveryChannel ?? null,
    events: await listBayEvents(db),
  }
}

/** What can be read stands first, then what can be made readable. */
const order = ({ state }: DeviceDescription) => DEVICE_STATES.indexOf(state)

async function look(db: Db): Promise<void> {
  try {
    const attached = await mux().devices()
    for (const udid of described.keys()) if (!attached.some((one) => one.udid === udid)) described.delete(udid)
    await Promise.all(attached.map((device) => lookAt(db, device)))
    problem = null
  } catch (thrown) {
    described.clear()
    problem = messageOf(thrown)
  }
  looked = Date.now()
}

async function lookAt(db: Db, device: Attached): Promise<void> {
  try {
    const now = await describeDevice(mux(), device)
    // A question on the device's screen stays open until it is answered there.
    const asked = described.get(device.udid)?.state
    const open = now.state === 'untrusted' && (asked === 'asking' || asked === 'refused')
    described.set(device.udid, open ? { ...now, state: asked } : now)
    if (now.state === 'ready' || now.state === 'locked') await rememberTrust(db, device.udid, new Date())
  } catch (thrown) {
    if (!(thrown instanceof DeviceError)) throw thrown
    described.delete(device.udid)
  }
}

/** A device on the cable. @throws AppError('not-found') */
export async function requireDevice(udid: string): Promise<Attached> {
  const device = (await mux().devices()).find((one) => one.udid === udid)
  if (!device) throw new AppError('not-found', 'This device is not on the cable any more. Plug it in and try again.')
  return device
}

/** Asks a device to trust this computer. @throws DeviceError with what to do on its screen */
export async function askForTrust(db: Db, udid: string): Promise<void> {
  const device = await requireDevice(udid)
  const lockdown = await Lockdown.open(mux(), device)
  try {
    await pair(mux(), device, lockdown)
  } catch (thrown) {
    const state = thrown instanceof DeviceError && STATES_OF_TRUST[thrown.code]
    const known = described.get(udid)
    if (state && known) described.set(udid, { ...known, state })
    throw thrown
  } finally {
    lockdown.close()
  }
  described.delete(udid)
  await look(db)
}

const STATES_OF_TRUST: Partial<Record<string, DeviceDescription['state']>> = {
  'trust-pending': 'asking',
  'trust-refused': 'refused',
}

/** A device with what it says of itself, if it can be read now. @throws AppError */
export async function requireReadable(udid: string): Promise<DeviceDescription> {
  const description = await describeDevice(mux(), await requireDevice(udid))
  if (description.state !== 'ready' && description.state !== 'locked')
    throw new AppError('conflict', 'This device cannot be read in its present state. The Bay says what to do.')
  return description
}
