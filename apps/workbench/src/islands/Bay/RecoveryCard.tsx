import { modelName } from '@lumbrin/core/backup/models'
import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import type { Installing, RecoveringDevice } from '../../domain/bay'
import { DEVICE_STATES } from '../../domain/device-states'
import { formatBytes } from '../../domain/format'
import type { Wire } from '../../domain/wire'
import { StateMark } from './StateMark'

interface Props {
  device: Wire<RecoveringDevice>
  look: () => Promise<void>
}

/** A device that does not start, and the ways to bring it back: the harmless ones first, what erases set apart. */
export function RecoveryCard({ device, look }: Props) {
  const { act, failed } = useAct()
  const [image, setImage] = useState(device.images[0]?.id ?? '')
  const [typed, setTyped] = useState('')
  const words = DEVICE_STATES.recovery
  const busy = device.installing?.phase === 'fetching' || device.installing?.phase === 'installing'
  const path = { udid: device.udid }
  const follow = (send: () => Promise<unknown>) => act(() => send().finally(look))
  const leave = () => follow(() => ask('POST /api/bay/{udid}/leave', { path }))
  const install = (how: { keep: true } | { keep: false; name: string }) =>
    follow(() => ask('POST /api/bay/{udid}/install', { path, body: { image, ...how } }))
  return (
    <article aria-label={device.name ?? device.udid} className="h-full border-t-2 border-rule pt-3">
      <div className="flex items-baseline gap-3">
        <h2 className="private text-lg">{device.name ?? 'Unnamed device'}</h2>
        <StateMark state="recovery" />
      </div>
      <p className="text-soft">
        {modelName(device.productType) ?? device.productType} · <span className="font-mono text-xs">{device.udid}</span>
      </p>
      <p className="mt-2">
        {words.means} {words.stillThere}
      </p>
      <ol className="mt-3 list-decimal space-y-3 pl-5">
        <li>
          <button type="button" className="button" disabled={busy} onClick={() => leave()}>
            Let it start the ordinary way
          </button>
          <p className="text-sm text-soft">Risks nothing: nothing on it changes.</p>
        </li>
        <li>
          <span className="flex flex-wrap items-center gap-3">
            <label className="flex items-center gap-2">
              System
              <select className="field w-auto" value={image} onChange={(event) => setImage(event.target.value)}>
                {device.images.map(({ id, version, bytes }) => (
                  <option key={id} value={id}>
                    {version} ({formatBytes(bytes)})
                  </option>
                ))}
              </select>
            </label>
            <button
              type="button"
              className="button button-main"
              disabled={busy || !image}
              onClick={() => install({ keep: true })}
            >
              Install it and keep what is there
            </button>
          </span>
          <p className="text-sm text-soft">
            Its checksum is compared before the device sees it. Risks little: the owner’s data stays; free space may be
            written over, so leftovers of deleted items become fewer.
          </p>
          {device.installing && <Progress installing={device.installing} />}
        </li>
      </ol>
      <details className="mt-4 border-l-2 border-partial pl-3">
        <summary className="text-partial">Erase it and install anew</summary>
        <p className="mt-1 text-sm">
          Everything on it is gone for good, leftovers too. This is refused while the way above was not tried. Type the
          device’s name to go on.
        </p>
        <form
          className="mt-2 flex gap-3"
          onSubmit={(event) => {
            event.preventDefault()
            void install({ keep: false, name: typed })
          }}
        >
          <label className="flex items-center gap-2">
            Name
            <input className="field w-52" value={typed} onChange={(event) => setTyped(event.target.value)} required />
          </label>
          <button type="submit" className="button" disabled={busy || typed !== device.name}>
            Erase and install
          </button>
        </form>
      </details>
      <Failure className="mt-3">{failed}</Failure>
    </article>
  )
}

const PHASES: Record<Installing['phase'], string> = {
  fetching: 'Fetching the system and computing its checksum',
  installing: 'The device takes the system; do not unplug it',
  done: 'Installed. The device starts',
  failed: 'Not installed',
}

function Progress({ installing: { phase, share, message } }: { installing: Installing }) {
  return (
    <div className="mt-2" role="status">
      <progress className="w-64" max={1} value={share} aria-label="Installing" />
      <p className="text-sm">
        {PHASES[phase]}. {message}
      </p>
    </div>
  )
}
