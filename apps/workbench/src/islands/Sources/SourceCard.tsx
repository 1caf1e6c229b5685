import type { CategoryId } from '@lumbrin/core/categories/types'
import { formatBytes, formatTime, plural } from '../../components/format'
import type { Wire } from '../../components/wire'
import type { ReadRow, SourceRow } from '../../database/sources'
import { ReadForm } from './ReadForm'
import { ReadProgress } from './ReadProgress'

interface Props {
  jobId: number
  source: Wire<SourceRow>
  wanted: CategoryId[]
  reads: Wire<ReadRow>[]
}

/** One source: what it is, what was read of it, what can be read next. */
export function SourceCard({ jobId, source, wanted, reads }: Props) {
  const { info } = source
  const open = reads.some((read) => !['done', 'failed'].includes(read.state))
  const finished = reads.flatMap((read) =>
    read.steps.filter((step) => step.finished).map((step) => `${step.category}/${step.pass}`),
  )
  return (
    <article className="border-b border-rule pb-6" aria-label={info.deviceName ?? source.path}>
      <div className="flex items-baseline gap-3">
        <h2 className="text-lg">{info.deviceName ?? 'Unnamed device'}</h2>
        <span className="text-soft">computer backup</span>
      </div>
      <dl className="mt-2 grid grid-cols-4 gap-x-6 gap-y-2">
        <Fact name="State of" value={formatTime(source.takenAt)} />
        <Fact name="Model" value={info.productType ?? 'unknown'} />
        <Fact name="System" value={info.osVersion ?? 'unknown'} />
        <Fact name="Content" value={`${plural(source.files, 'file')}, ${formatBytes(source.bytes)}`} />
        <Fact name="Folder" value={source.path} wide />
      </dl>
      {info.encrypted && <p className="notice mt-3">This backup is encrypted. Encrypted backups cannot be read yet.</p>}
      <div className="mt-4 space-y-4">
        {reads.map((read) => (
          <ReadProgress key={read.id} jobId={jobId} read={read} />
        ))}
        {!open && <ReadForm sourceId={source.id} wanted={wanted} finished={finished} />}
      </div>
    </article>
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
