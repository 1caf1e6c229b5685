import { modelName } from '@lumbrin/core/backup/models'
import type { CategoryId } from '@lumbrin/core/categories/types'
import { useCallback, useState } from 'react'
import { formatBytes, formatTime, plural } from '../../components/format'
import { SOURCE_KINDS } from '../../components/labels'
import type { Wire } from '../../components/wire'
import type { ReadRow, SourceRow } from '../../database/sources'
import { type Loss, stance } from './loss'
import { ReadForm } from './ReadForm'
import { ReadProgress } from './ReadProgress'
import { Unlock } from './Unlock'

interface Props {
  jobId: number
  source: Wire<SourceRow>
  wanted: CategoryId[]
  loss: Loss
  reads: Wire<ReadRow>[]
}

/** One source: what it is, what was read of it, what can be read next. */
export function SourceCard({ jobId, source, wanted, loss, reads }: Props) {
  const { info } = source
  const [locked, setLocked] = useState(info.encrypted)
  const opened = useCallback(() => setLocked(false), [])
  const open = reads.some((read) => !['done', 'failed'].includes(read.state))
  const finished = reads.flatMap((read) =>
    read.steps.filter((step) => step.finished).map((step) => `${step.category}/${step.pass}`),
  )
  return (
    <article className="border-b border-rule pb-6" aria-label={info.deviceName ?? source.path}>
      <div className="flex items-baseline gap-3">
        <h2 className="text-lg">{info.deviceName ?? 'Unnamed device'}</h2>
        <span className="text-soft">
          {SOURCE_KINDS[info.kind]}
          {info.layout === 'legacy' ? ', old layout' : ''}
        </span>
        <a
          className="ml-auto text-accent underline underline-offset-2"
          href={`/jobs/${jobId}/contents?source=${source.id}`}
        >
          Look into it
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
        {!open && !locked && <ReadForm sourceId={source.id} wanted={wanted} finished={finished} info={info} />}
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
