import { modelName } from '@lumbrin/core/backup/models'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { JobDevice } from '@lumbrin/core/findings/devices'
import { useCallback, useState } from 'react'
import { ask } from '../../api/client'
import { useAct } from '../../components/useAct'
import { formatBytes, formatTime, plural } from '../../domain/format'
import { SOURCE_KINDS } from '../../domain/labels'
import { type Loss, stance } from '../../domain/loss'
import type { Read, Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import { ROLE_WORDS } from './Devices'
import { ReadAccount } from './ReadAccount'
import { ReadForm } from './ReadForm'
import { ReadProgress } from './ReadProgress'
import { Unlock } from './Unlock'

interface Props {
  jobId: number
  source: Wire<Source>
  wanted: CategoryId[]
  loss: Loss
  reads: Wire<Read>[]
  device: JobDevice | undefined
  devices: readonly JobDevice[]
}

/** One source: what it is, what was read of it, what can be read next. */
export function SourceCard({ jobId, source, wanted, loss, reads, device, devices }: Props) {
  const { info } = source
  const [locked, setLocked] = useState(info.encrypted)
  const opened = useCallback(() => setLocked(false), [])
  const open = reads.some((read) => !['done', 'gaps', 'failed'].includes(read.state))
  const finished = reads.flatMap((read) =>
    read.steps.filter((step) => step.finished).map((step) => `${step.category}/${step.pass}`),
  )
  return (
    <article
      id={`source-${source.id}`}
      className="border-b border-rule pb-6"
      aria-label={info.deviceName ?? source.path}
    >
      <div className="flex items-baseline gap-3">
        <h2 className="text-lg">{info.deviceName ?? 'Unnamed device'}</h2>
        <span className="text-soft">
          {SOURCE_KINDS[info.kind]}
          {info.layout === 'legacy' ? ', old layout' : ''}
        </span>
        {device && <DeviceChoice source={source} device={device} devices={devices} />}
        <a
          className="ml-auto text-accent underline underline-offset-2"
          href={`/jobs/${jobId}/contents?source=${source.id}`}
        >
          Browse its files
        </a>
      </div>
      <dl className="mt-2 grid grid-cols-4 gap-x-6 gap-y-2">
        <Fact name="State of" value={`${formatTime(source.takenAt)}${stance(source.takenAt, loss)}`} />
        <Fact name="Model" value={modelName(info.productType) ?? 'unknown'} />
        <Fact name="System" value={info.osVersion ?? 'unknown'} />
        <Fact name="Content" value={`${plural(source.files, 'file')}, ${formatBytes(source.bytes)}`} />
        <Fact name={info.layout === 'collected' ? 'What was fetched is kept in' : 'Folder'} value={source.path} wide />
      </dl>
      {info.encrypted && <Unlock sourceId={source.id} wasOpen={reads.length > 0} opened={opened} />}
      <div className="mt-4 space-y-4">
        {reads.map((read) => (
          <ReadProgress key={read.id} jobId={jobId} read={read} />
        ))}
        {!open && <ReadAccount source={source} reads={reads} />}
        {!open && !locked && <ReadForm sourceId={source.id} wanted={wanted} finished={finished} info={info} />}
      </div>
    </article>
  )
}

/** Of which device the source is; the technician may know better than it says itself. */
function DeviceChoice({
  source,
  device,
  devices,
}: { source: Wire<Source> } & Required<Pick<Props, 'devices'>> & { device: JobDevice }) {
  const { act, failed } = useAct()
  if (device.role === 'account') return <span className="text-soft">· {ROLE_WORDS.account}</span>
  const say = (key: string) =>
    act(() => ask('POST /api/sources/{source}/device', { path: { source: source.id }, body: { key: key || null } }))
  const others = devices.filter(({ role }) => role !== 'account')
  return (
    <span className="flex items-baseline gap-2">
      {others.length > 1 ? (
        <select
          className="field !w-auto"
          aria-label="Device of this source"
          value={source.saidDevice ?? ''}
          onChange={({ target }) => say(target.value)}
        >
          <option value="">of {device.name}, as it says itself</option>
          {others.map(({ key, name }) => (
            <option key={key} value={key}>
              of {name}, as you say
            </option>
          ))}
        </select>
      ) : null}
      <span className={device.role === 'brief' ? 'text-soft' : 'text-elsewhere'}>· {ROLE_WORDS[device.role]}</span>
      {failed && <span role="alert">{failed}</span>}
    </span>
  )
}

function Fact({ name, value, wide = false }: { name: string; value: string; wide?: boolean }) {
  return (
    <div className={wide ? 'col-span-4' : ''}>
      <dt className="text-sm text-soft">{name}</dt>
      <dd className={wide ? 'font-mono text-sm break-all' : ''}>{value}</dd>
    </div>
  )
}
