import type { DevicePart } from '@lumbrin/core/device/parts'
import { useState } from 'react'
import { ask } from '../../api/client'
import { Dialog } from '../../components/Dialog'
import { DialogButtons } from '../../components/DialogButtons'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'
import type { Bay } from '../../domain/bay'
import { DEVICE_STATES } from '../../domain/device-states'
import { OFTEN, oftenWords } from '../../domain/regular-copies'
import type { Wire } from '../../domain/wire'

type Device = Wire<Bay>['devices'][number]

const PARTS: Record<DevicePart, { label: string; hint: string }> = {
  everything: {
    label: 'Everything that it gives',
    hint: 'as a backup of it does; the device makes one for it each time',
  },
  media: { label: 'Pictures, films, recordings and music', hint: 'later copies fetch only what is new' },
}

/** Copies an attached device into a place, once or again and again. */
export function DeviceCopy({ place, close }: { place: number; close: () => void }) {
  const { answer, failed } = useAsk('GET /api/bay', {})
  const { act, failed: notBegun, busy } = useAct()
  const [udid, setUdid] = useState<string | null>(null)
  const [part, setPart] = useState<DevicePart>('everything')
  const [everyDays, setEveryDays] = useState(0)
  const devices = answer?.devices ?? []
  const device = devices.find((one) => one.udid === udid) ?? devices.find(isReadable)
  const refused = device && whyNot(device, part)
  const begin = () =>
    act(async () => {
      if (!device) return
      const path = { place }
      if (everyDays > 0)
        await ask('POST /api/copies/places/{place}/regular', { path, body: { udid: device.udid, part, everyDays } })
      else
        await ask('POST /api/copies/places/{place}/tasks', { path, body: { kind: 'device', udid: device.udid, part } })
      close()
    })
  return (
    <Dialog label="Copy a device" close={close} className="!w-[34rem]">
      <form
        className="space-y-4"
        onSubmit={(event) => {
          event.preventDefault()
          begin()
        }}
      >
        <h2 className="text-lg">Copy a device</h2>
        <Failure>{failed || answer?.problem}</Failure>
        {answer && devices.length === 0 && (
          <p>No device is attached. Plug one in and unlock it; it appears here when this is opened again.</p>
        )}
        {devices.length > 0 && (
          <>
            <label className="block">
              <span className="mb-1 block font-semibold">Device</span>
              <select className="field" value={device?.udid ?? ''} onChange={(event) => setUdid(event.target.value)}>
                {!device && <option value="">no device can be read now</option>}
                {devices.map((one) => (
                  <option key={one.udid} value={one.udid}>
                    {one.name ?? one.udid} ({DEVICE_STATES[one.state].label})
                  </option>
                ))}
              </select>
            </label>
            <fieldset>
              <legend className="mb-1 font-semibold">What is copied</legend>
              {(Object.keys(PARTS) as DevicePart[]).map((one) => (
                <label key={one} className="flex items-baseline gap-2 py-1">
                  <input type="radio" name="part" checked={part === one} onChange={() => setPart(one)} />
                  <span>
                    {PARTS[one].label}
                    <span className="block text-sm text-soft">{PARTS[one].hint}</span>
                  </span>
                </label>
              ))}
            </fieldset>
            <label className="block">
              <span className="mb-1 block font-semibold">How often</span>
              <select
                className="field"
                value={everyDays}
                onChange={(event) => setEveryDays(Number(event.target.value))}
              >
                <option value={0}>once, now</option>
                {OFTEN.map(([days, words]) => (
                  <option key={days} value={days}>
                    {words}, as soon as it is attached
                  </option>
                ))}
              </select>
            </label>
          </>
        )}
        {refused && <p className="notice">{refused}</p>}
        <p className="text-soft">
          Nothing is written to the device. What lies in the place already is not written again.
        </p>
        <Failure>{notBegun}</Failure>
        <DialogButtons
          action={everyDays > 0 ? `Copy it ${oftenWords(everyDays)}` : 'Copy it now'}
          disabled={busy || !device || refused !== undefined}
          close={close}
        />
      </form>
    </Dialog>
  )
}

const isReadable = ({ state }: Device) => state === 'ready' || state === 'locked'

/** Why a device cannot be copied so now; undefined: it can. */
function whyNot(device: Device, part: DevicePart): string | undefined {
  if (!isReadable(device)) return `${DEVICE_STATES[device.state].means} The Bay says what to do.`
  if (part === 'media') return undefined
  if (device.state === 'locked')
    return 'It is locked: unlock it first, or copy its pictures, films, recordings and music.'
  if (device.encryptsBackups)
    return 'It encrypts its backups with a password. Copy its pictures, films, recordings and music; or read a backup of it in a job, and keep a safe copy of that.'
  return undefined
}
