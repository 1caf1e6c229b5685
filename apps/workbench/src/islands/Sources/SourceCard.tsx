import { modelName } from '@lumbrin/core/backup/models'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { JobDevice } from '@lumbrin/core/findings/devices'
import ChevronDown from 'lucide-react/icons/chevron-down'
import ChevronRight from 'lucide-react/icons/chevron-right'
import { useCallback, useState } from 'react'
import { ask } from '../../api/client'
import { Moment, useTimes } from '../../components/times'
import { useAct } from '../../components/useAct'
import { formatBytes, plural } from '../../domain/format'
import { READ_STATE_WORDS, SOURCE_KINDS } from '../../domain/labels'
import { type Loss, stance } from '../../domain/loss'
import { ENDED } from '../../domain/read-states'
import type { Read, Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import { ROLE_WORDS } from './Devices'
import { ReadAccount } from './ReadAccount'
import { ReadForm } from './ReadForm'
import { ReadProgress } from './ReadProgress'
import { SourceActions } from './SourceActions'
import { Unlock } from './Unlock'

interface Props {
  jobId: number
  source: Wire<Source>
  wanted: CategoryId[]
  loss: Loss
  reads: Wire<Read>[]
  device: JobDevice | undefined
  devices: readonly JobDevice[]
  /** Sources of the job that are encrypted. */
  encrypted: number
}

/** What is to be said of how a source lies on its disk. */
const LAYOUT_WORDS: Partial<Record<Source['info']['layout'], string>> = {
  legacy: ', old layout',
  copied: ', safe copy',
}

/** One source: what it is, what was read of it, what can be read next; in a row, opened for all of that. */
export function SourceCard({ open: first, ...props }: Props & { open: boolean }) {
  const { source, loss, reads } = props
  const [open, setOpen] = useState(first)
  const { zone } = useTimes()
  const { info } = source
  const Chevron = open ? ChevronDown : ChevronRight
  return (
    <article
      id={`source-${source.id}`}
      className={`border-b border-rule ${open ? 'pb-6' : 'pb-1'}`}
      aria-label={info.deviceName ?? source.path}
    >
      <div className="flex items-baseline gap-3">
        <h2 className="text-lg">
          <button
            type="button"
            className="flex items-center gap-1 text-left"
            aria-expanded={open}
            onClick={() => setOpen(!open)}
          >
            <Chevron size={16} aria-hidden="true" className="shrink-0 text-soft" />
            {info.deviceName ?? 'Unnamed device'}
          </button>
        </h2>
        <span className="whitespace-nowrap text-soft">
          {SOURCE_KINDS[info.kind]}
          {LAYOUT_WORDS[info.layout] ?? ''}
        </span>
        {!open && (
          <span className="min-w-0 truncate">
            <Moment at={source.takenAt} />
            {stance(source.takenAt, loss, zone)} · <span className="text-soft">{standOf(reads)}</span>
          </span>
        )}
        {open && props.device && <DeviceChoice source={source} device={props.device} devices={props.devices} />}
        <a
          className="ml-auto whitespace-nowrap text-accent underline underline-offset-2"
          href={`/jobs/${source.jobId}/contents?source=${source.id}`}
        >
          Browse its files
        </a>
      </div>
      {open && <Opened {...props} />}
    </article>
  )
}

/** How far a source was read, in a word. */
function standOf(reads: Wire<Read>[]): string {
  if (reads.length === 0) return 'not read yet'
  const at = reads.find(({ state }) => !ENDED.includes(state))
  if (at) return READ_STATE_WORDS[at.state]
  return reads.some(({ state }) => state === 'gaps') ? 'read, with gaps' : 'read'
}

function Opened({ jobId, source, wanted, loss, reads, encrypted }: Props) {
  const { info } = source
  const { time, zone } = useTimes()
  const [locked, setLocked] = useState(info.encrypted)
  const opened = useCallback(() => setLocked(false), [])
  const busy = reads.some((read) => !ENDED.includes(read.state))
  const finished = reads.flatMap((read) =>
    read.steps.filter((step) => step.finished).map((step) => `${step.category}/${step.pass}`),
  )
  return (
    <>
      <dl className="mt-2 grid grid-cols-4 gap-x-6 gap-y-2">
        <Fact name="State of" value={`${time(source.takenAt)}${stance(source.takenAt, loss, zone)}`} />
        <Fact name="Model" value={modelName(info.productType) ?? 'unknown'} />
        <Fact name="System" value={info.osVersion ?? 'unknown'} />
        <Fact name="Content" value={`${plural(source.files, 'file')}, ${formatBytes(source.bytes)}`} />
        <Fact name={info.layout === 'collected' ? 'What was fetched is kept in' : 'Folder'} value={source.path} wide />
      </dl>
      {info.encrypted && (
        <Unlock sourceId={source.id} wasOpen={reads.length > 0} others={encrypted - 1} opened={opened} />
      )}
      <div className="mt-4 space-y-4">
        {reads.map((read) => (
          <ReadProgress key={read.id} jobId={jobId} read={read} />
        ))}
        {!busy && <ReadAccount source={source} reads={reads} />}
        {!busy && !locked && <ReadForm sourceId={source.id} wanted={wanted} finished={finished} info={info} />}
        <SourceActions source={source} />
      </div>
    </>
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
