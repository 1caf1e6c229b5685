import type { BayDevice } from './bay.js'
import { formatBytes } from './format.js'
import type { Wire } from './wire.js'

/** Something that should be so before a device is read. */
export interface DeviceCheck {
  id: string
  label: string
  why: string
  /** Null: this program cannot tell, so the technician ticks it. */
  passed: boolean | null
}

const ENOUGH_BATTERY = 0.3

/** What should be so before this device is read. `freeHere`: bytes free where what is read is kept. */
export function checksOf(device: Wire<BayDevice>, freeHere: number): DeviceCheck[] {
  const used = (device.capacity ?? 0) - (device.free ?? 0)
  return [
    {
      id: 'flight',
      label: 'flight mode is on',
      why: 'New messages and syncing write over what was deleted.',
      passed: device.flightMode,
    },
    {
      id: 'unlocked',
      label: 'unlocked',
      why: 'A locked device gives pictures only.',
      passed: device.state === 'ready',
    },
    { id: 'trusted', label: 'trusts this computer', why: 'Checked with a secured session just now.', passed: true },
    {
      id: 'power',
      label: 'has power',
      why: 'A read of hours must not end with an empty battery.',
      passed: device.battery === null ? null : device.charging === true || device.battery >= ENOUGH_BATTERY,
    },
    {
      id: 'space',
      label: `room for it here (${formatBytes(used)} used there, ${formatBytes(freeHere)} free here)`,
      why: 'What is read is kept in the data folder.',
      passed: freeHere > used,
    },
    {
      id: 'sync',
      label: 'no program syncs or backs it up meanwhile',
      why: 'A sync writes to the device, and replaces backups. Quit such programs; this cannot be seen from here.',
      passed: null,
    },
  ]
}
