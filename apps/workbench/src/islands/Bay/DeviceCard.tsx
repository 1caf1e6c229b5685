import { modelName } from '@lumbrin/core/backup/models'
import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Moment } from '../../components/times'
import { useAct } from '../../components/useAct'
import type { BayDevice } from '../../domain/bay'
import { DEVICE_STATES } from '../../domain/device-states'
import { formatBytes } from '../../domain/format'
import type { Wire } from '../../domain/wire'
import { Checks } from './Checks'
import { JobPicker } from './JobPicker'
import type { JobChoice } from './jobChoice'
import { StateMark } from './StateMark'

interface Props {
  device: Wire<BayDevice>
  freeHere: number
  jobs: JobChoice[]
  look: () => Promise<void>
}

/** One device: what it is, how it stands, what that means, and the way on. */
export function DeviceCard({ device, freeHere, jobs, look }: Props) {
  const words = DEVICE_STATES[device.state]
  const readable = device.state === 'ready' || device.state === 'locked'
  return (
    <article aria-label={device.name ?? device.udid} className="h-full border-t-2 border-rule pt-3">
      <div className="flex items-baseline gap-3">
        <h2 className="private text-lg">{device.name ?? 'Unnamed device'}</h2>
        <StateMark state={device.state} />
      </div>
      <p className="text-soft">
        {modelName(device.productType) ?? 'unknown model'} · system {device.osVersion ?? 'unknown'} ·{' '}
        <span className="font-mono text-xs">{device.udid}</span>
      </p>
      <Storage device={device} />
      <dl className="mt-3 grid grid-cols-[7rem_1fr] gap-x-4 gap-y-1">
        <dt className="text-soft">State</dt>
        <dd>{words.means}</dd>
        <dt className="text-soft">Can be read</dt>
        <dd>{words.stillThere}</dd>
        <dt className="text-soft">Next</dt>
        <dd>{words.wayOn}</dd>
        {device.timeZone && (
          <>
            <dt className="text-soft">Time zone</dt>
            <dd>{device.timeZone}</dd>
          </>
        )}
        <dt className="text-soft">Trusted here</dt>
        <dd>
          {device.trustedAt ? (
            <>
              last on <Moment at={device.trustedAt} />
            </>
          ) : (
            'never'
          )}
        </dd>
      </dl>
      <p className="mt-2">
        <a className="text-accent underline underline-offset-2" href={`/bay/${encodeURIComponent(device.udid)}`}>
          Device sheet to print
        </a>
      </p>
      {readable && <Checks device={device} freeHere={freeHere} />}
      {readable ? <AddToJob udid={device.udid} jobs={jobs} /> : <Trust device={device} look={look} />}
    </article>
  )
}

/** How full it is, and its battery. */
function Storage({ device }: { device: Wire<BayDevice> }) {
  if (device.capacity === null || device.free === null) return null
  const used = device.capacity - device.free
  return (
    <div className="mt-2 flex items-center gap-3 text-sm">
      <progress className="w-48" max={device.capacity} value={used} aria-label="Storage in use" />
      <span>
        {formatBytes(used)} of {formatBytes(device.capacity)} in use
      </span>
      {device.battery !== null && (
        <span className="text-soft">
          battery {Math.round(device.battery * 100)} %{device.charging ? ', charging' : ''}
        </span>
      )}
    </div>
  )
}

const ASKABLE = ['untrusted', 'asking', 'refused', 'forgotten']

function Trust({ device, look }: { device: Wire<BayDevice>; look: () => Promise<void> }) {
  const { act, failed, busy } = useAct()
  if (!ASKABLE.includes(device.state)) return null
  const askForTrust = () => act(() => ask('POST /api/bay/{udid}/trust', { path: { udid: device.udid } }).finally(look))
  return (
    <div className="mt-3">
      <button type="button" className="button" onClick={askForTrust} disabled={busy}>
        {busy ? 'Asking…' : device.state === 'asking' ? 'Ask once more' : 'Ask for trust'}
      </button>
      <Failure className="mt-2">{failed}</Failure>
    </div>
  )
}

function AddToJob({ udid, jobs }: { udid: string; jobs: JobChoice[] }) {
  const [job, setJob] = useState(jobs[0])
  const { act, failed, busy } = useAct()
  if (!job)
    return (
      <p className="mt-3 text-soft">
        There is no job yet.{' '}
        <a className="text-accent underline underline-offset-2" href="/jobs/new">
          Open one
        </a>{' '}
        to read this device for it.
      </p>
    )
  const add = () =>
    act(async () => {
      await ask('POST /api/jobs/{job}/devices', { path: { job: job.id }, body: { udid } })
      location.href = `/jobs/${job.id}/sources`
    })
  return (
    <div className="mt-3 flex flex-wrap items-center gap-3">
      <JobPicker jobs={jobs} chosen={job} choose={setJob} />
      <button type="button" className="button button-main" onClick={add} disabled={busy}>
        Add to this job
      </button>
      <Failure className="w-full">{failed}</Failure>
    </div>
  )
}
