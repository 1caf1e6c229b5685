import type { CategoryId } from '@lumbrin/core/categories/registry'
import { useState } from 'react'
import { ask } from '../../api/client'
import type { BodyGiven } from '../../api/contracts'
import { Failure } from '../../components/Failure.js'
import { Island } from '../../components/Island'
import { Scroller } from '../../components/Scroller'
import { StandingMark } from '../../components/StandingMark'
import type { Zoned } from '../../components/times'
import { useAct } from '../../components/useAct'
import { useJobProgress } from '../../components/useJobProgress'
import type { ReturnEntry } from '../../domain/bay'
import { formatBytes, formatCount, plural } from '../../domain/format'
import { CATEGORY_LABELS } from '../../domain/labels'
import type { JobProgress } from '../../domain/progress'
import type { TrayChange, TrayLine } from '../../domain/tray'
import type { Wire } from '../../domain/wire'
import { NetworkFolder } from './NetworkFolder'
import { ReturnPanel } from './ReturnPanel'
import { TrayItems } from './TrayItems'

interface Props extends Zoned {
  jobId: number
  /** What each kind of item will be written as, in words. */
  formats: Record<CategoryId, string>
  progress: Wire<JobProgress>
  returns: Wire<ReturnEntry>[]
}

/** What was picked for handing over. */
export function TrayView(props: Props) {
  return (
    <Island zone={props.zone}>
      <Tray {...props} />
    </Island>
  )
}

function Tray({ jobId, formats, progress: first, returns }: Props) {
  const { tray } = useJobProgress(jobId, first)
  const { act, failed } = useAct()
  const [taken, setTaken] = useState<{ what: string; change: TrayChange } | null>(null)
  const send = (body: BodyGiven<'POST /api/jobs/{job}/tray'>) =>
    ask('POST /api/jobs/{job}/tray', { path: { job: jobId }, body })
  const remove = (what: string, body: { remove: number[] } | { removeCategory: CategoryId }) =>
    act(async () => {
      const change = await send(body)
      if (change) setTaken({ what, change })
    })
  const undo = (step: string) =>
    act(async () => {
      await send({ undo: step })
      setTaken(null)
    })
  const note = (
    <output className="mb-3 block empty:mb-0">
      {taken && (
        <>
          {taken.what}: {formatCount(taken.change.count)} taken out{' '}
          <button type="button" className="text-accent underline" onClick={() => undo(taken.change.step)}>
            undo
          </button>
        </>
      )}
    </output>
  )
  if (!tray) return <p className="p-5 text-soft">Summing up the tray…</p>
  if (tray.length === 0)
    return (
      <div className="p-5">
        {note}
        <p className="text-soft">
          The tray is empty. The Answer puts all matches in at once; in{' '}
          <a className="text-accent underline underline-offset-2" href={`/jobs/${jobId}/findings`}>
            Findings
          </a>{' '}
          Space puts the selected one in.
        </p>
        <NetworkFolder jobId={jobId} />
      </div>
    )
  const count = tray.reduce((sum, line) => sum + line.count, 0)
  const bytes = tray.reduce((sum, line) => sum + line.bytes, 0)
  return (
    <Scroller label="Tray" className="overflow-auto p-5">
      <div className="flex flex-wrap items-center gap-4">
        <p>
          <strong>{plural(count, 'item')}</strong>, {formatBytes(bytes)}
        </p>
        <a className="button button-main print:hidden" href={`/jobs/${jobId}/handover`}>
          Hand over
        </a>
        <button type="button" className="button print:hidden" onClick={() => window.print()}>
          Print this list
        </button>
      </div>
      <Failure className="mt-3">{failed}</Failure>
      <div className="mt-3">{note}</div>
      {[...new Set(tray.map((line) => line.category))].map((category) => (
        <TrayCategory
          key={category}
          jobId={jobId}
          category={category}
          lines={tray.filter((line) => line.category === category)}
          formats={formats[category]}
          remove={remove}
        />
      ))}
      <div className="print:hidden">
        <NetworkFolder jobId={jobId} />
        <ReturnPanel jobId={jobId} returns={returns} />
      </div>
    </Scroller>
  )
}

interface TrayCategoryProps {
  jobId: number
  category: CategoryId
  lines: TrayLine[]
  /** What it will be written as, in words. */
  formats: string
  remove: (what: string, body: { remove: number[] } | { removeCategory: CategoryId }) => void
}

/** What of one kind lies in the tray: sums, standings, formats, and the items themselves. */
function TrayCategory({ jobId, category, lines, formats, remove }: TrayCategoryProps) {
  const label = CATEGORY_LABELS[category]
  const count = lines.reduce((sum, line) => sum + line.count, 0)
  const bytes = lines.reduce((sum, line) => sum + line.bytes, 0)
  return (
    <section aria-label={label} className="mt-6">
      <div className="flex flex-wrap items-baseline gap-x-4 border-b border-soft pb-1">
        <h2>{label}</h2>
        <span>
          {formatCount(count)}, {formatBytes(bytes)}
        </span>
        {lines.map((line) => (
          <span key={line.standing} className="inline-flex gap-1.5">
            <StandingMark standing={line.standing} label /> {formatCount(line.count)}
          </span>
        ))}
        <span className="text-soft">as {formats}</span>
        <button
          type="button"
          className="button ml-auto print:hidden"
          onClick={() => remove(label, { removeCategory: category })}
          aria-label={`Take all out of the tray: ${label}`}
        >
          Take all out
        </button>
      </div>
      <TrayItems
        jobId={jobId}
        category={category}
        takeOut={(line) => remove(line.title || 'One item', { remove: [line.id] })}
      />
    </section>
  )
}
