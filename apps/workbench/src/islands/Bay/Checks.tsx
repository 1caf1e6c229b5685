import { useState } from 'react'
import type { BayDevice } from '../../domain/bay'
import { formatBytes } from '../../domain/format'
import type { Wire } from '../../domain/wire'

interface Check {
  id: string
  label: string
  why: string
  /** Null: this program cannot tell, so the technician ticks it. */
  passed: boolean | null
}

const ENOUGH_BATTERY = 0.3

function checksOf(device: Wire<BayDevice>, freeHere: number): Check[] {
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

/** What should be so before a device is read: checked where the program can, ticked by hand where not. */
export function Checks({ device, freeHere }: { device: Wire<BayDevice>; freeHere: number }) {
  const [ticked, setTicked] = useState<string[]>([])
  return (
    <fieldset className="mt-3">
      <legend className="text-soft">Before reading</legend>
      <ul className="mt-1 grid gap-y-1">
        {checksOf(device, freeHere).map(({ id, label, why, passed }) => (
          <li key={id} className="grid grid-cols-[3.5rem_minmax(0,1fr)]">
            {passed === null ? (
              <input
                type="checkbox"
                className="mt-1 w-fit self-start"
                aria-label={label}
                checked={ticked.includes(id)}
                onChange={({ target }) =>
                  setTicked((now) => (target.checked ? [...now, id] : now.filter((one) => one !== id)))
                }
              />
            ) : (
              <span className={passed ? 'text-accent' : 'text-partial'}>{passed ? 'yes' : 'not yet'}</span>
            )}
            <span>
              {label} <span className="text-sm text-soft">{why}</span>
            </span>
          </li>
        ))}
      </ul>
    </fieldset>
  )
}
