import { existsSync } from 'node:fs'
import { join } from 'node:path'
import type { DemoSize } from '../demo/build.js'
import { buildDeviceStores } from '../demo/devices.js'
import { StandInDevice, type Switches } from './device.js'
import { BackupFiles } from './files.js'

/** A device of the demo: what it is, and how it stands when the demo begins. */
interface Part {
  udid: string
  name: string
  productType: string
  osVersion: string
  switches: Partial<Switches>
}

export const PHONE_UDID = '00008110-0007A5C22E8B401E'

/** The theatre's devices, one for each state that a bench meets. */
export const FLEET: readonly Part[] = [
  {
    udid: PHONE_UDID,
    name: 'Odile’s phone',
    productType: 'iPhone14,5',
    osVersion: '17.6.1',
    switches: { theftLock: true },
  },
  {
    udid: '00008101-000E51A43C08001E',
    name: 'Workshop tablet',
    productType: 'iPad13,1',
    osVersion: '17.5',
    switches: { trust: 'asking' },
  },
  {
    udid: '00008120-00162D9A0C93C01E',
    name: 'Bram’s phone',
    productType: 'iPhone15,2',
    osVersion: '17.6.1',
    switches: { locked: true, trust: 'asking' },
  },
  {
    udid: '00008030-001C64E80EF3802E',
    name: 'Tour phone',
    productType: 'iPhone12,1',
    osVersion: '16.7',
    switches: { mode: 'stuck', broken: true },
  },
  {
    udid: '00008020-001A4D660A88002E',
    name: 'Box office phone',
    productType: 'iPhone11,8',
    osVersion: '16.7',
    switches: { mode: 'recovery' },
  },
  {
    udid: '00008110-000C19D41E45401E',
    name: 'Spare phone',
    productType: 'iPhone14,7',
    osVersion: '17.6.1',
    switches: { erased: true },
  },
]

const CAPACITY = 128e9

/** The demo's devices; what is on them is made under `folder` where it is not there yet. */
export async function openFleet(folder: string, size: DemoSize): Promise<StandInDevice[]> {
  if (!existsSync(folder)) await buildDeviceStores(folder, FLEET, size)
  return Promise.all(
    FLEET.map(async ({ switches, ...identity }) => {
      const files = await BackupFiles.open(join(folder, identity.udid))
      return new StandInDevice({ ...identity, capacity: CAPACITY }, files, switches)
    }),
  )
}
