import { useState } from 'react'
import type { BayDevice } from '../../domain/bay'
import { checksOf } from '../../domain/device-checks'
import type { Wire } from '../../domain/wire'

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
