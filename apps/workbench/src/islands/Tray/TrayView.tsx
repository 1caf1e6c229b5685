import type { CategoryId } from '@lumbrin/core/categories/registry'
import { useState } from 'react'
import { ask, wordsOf } from '../../api/client'
import type { BodyGiven } from '../../api/contracts'
import { Failure } from '../../components/Failure.js'
import { Island } from '../../components/Island'
import { StandingMark } from '../../components/StandingMark'
import { useJobProgress } from '../../components/useJobProgress'
import type { ReturnEntry } from '../../domain/bay'
import { formatBytes, formatCount } from '../../domain/format'
import { CATEGORY_LABELS } from '../../domain/labels'
import type { JobProgress } from '../../domain/progress'
import type { TrayChange, TrayLine } from '../../domain/tray'
import type { Wire } from '../../domain/wire'
import { NetworkFolder } from './NetworkFolder'
import { ReturnPanel } from './ReturnPanel'

interface Props {
  jobId: number
  /** What each kind of item will be written as, in words. */
  formats: Record<CategoryId, string>
  progress: Wire<JobProgress>
  returns: Wire<ReturnEntry>[]
}

/** What was picked for handing over. */
export function TrayView(props: Props) {
  return (
    <Island>
      <Tray {...props} />
    </Island>
  )
}

function Tray({ jobId, formats, progress: first, returns }: Props) {
  const { tray } = useJobProgress(jobId, first)
  const [failed, setFailed] = useState('')
  const [taken, setTaken] = useState<{ category: CategoryId; change: TrayChange } | null>(null)
  const send = (body: BodyGiven<'POST /api/jobs/{job}/tray'>) =>
    ask('POST /api/jobs/{job}/tray', { path: { job: jobId }, body })
  const remove = (category: CategoryId) =>
    send({ removeCategory: category }).then(
      (change) => setTaken({ category, change: change as TrayChange }),
      (thrown) => setFailed(wordsOf(thrown)),
    )
  const undo = (step: string) =>
    send({ undo: step }).then(
      () => setTaken(null),
      (thrown) => setFailed(wordsOf(thrown)),
    )
  const note = (
    <output className="mb-3 block empty:mb-0">
      {taken && (
        <>
          {CATEGORY_LABELS[taken.category]}: {formatCount(taken.change.count)} taken out{' '}
          <button type="button" className="text-accent underline" onClick={() => undo(taken.change.step)}>
            undo
          </button>
        </>
      )}
    </output>
  )
  if (!tray) return <p className="p-5 text-soft">Summing up the tray…</p>
  const categories = [...new Set(tray.map((line) => line.category))]
  const sum = (lines: TrayLine[], of: 'count' | 'bytes') => lines.reduce((total, line) => total + line[of], 0)
  if (tray.length === 0)
    return (
      <div className="p-5">
        {note}
        <p className="text-soft">
          The tray is empty. Pick findings in{' '}
          <a className="text-accent underline underline-offset-2" href={`/jobs/${jobId}/findings`}>
            Findings
          </a>
          : Space puts the selected one in.
        </p>
        <NetworkFolder jobId={jobId} />
      </div>
    )
  return (
    <div className="overflow-auto p-5">
      <Failure className="mb-3">{failed}</Failure>
      {note}
      <table className="table max-w-5xl">
        <thead>
          <tr>
            <th>Kind</th>
            <th className="figure">Items</th>
            <th className="figure">Size</th>
            <th>Standing</th>
            <th>Formats</th>
            <th>
              <span className="sr-only">Actions</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {categories.map((category) => {
            const lines = tray.filter((line) => line.category === category)
            return (
              <tr key={category}>
                <td className="font-semibold">{CATEGORY_LABELS[category]}</td>
                <td className="figure">{formatCount(sum(lines, 'count'))}</td>
                <td className="figure">{formatBytes(sum(lines, 'bytes'))}</td>
                <td>
                  <span className="flex flex-wrap gap-x-4">
                    {lines.map((line) => (
                      <span key={line.standing} className="inline-flex gap-1.5">
                        <StandingMark standing={line.standing} label /> {formatCount(line.count)}
                      </span>
                    ))}
                  </span>
                </td>
                <td>{formats[category]}</td>
                <td>
                  <button
                    type="button"
                    className="button"
                    onClick={() => remove(category)}
                    aria-label={`Take out of the tray: ${CATEGORY_LABELS[category]}`}
                  >
                    Take out of the tray
                  </button>
                </td>
              </tr>
            )
          })}
        </tbody>
        <tfoot>
          <tr>
            <td className="font-semibold">Total</td>
            <td className="figure font-semibold">{formatCount(sum(tray, 'count'))}</td>
            <td className="figure font-semibold">{formatBytes(sum(tray, 'bytes'))}</td>
            <td colSpan={3} />
          </tr>
        </tfoot>
      </table>
      <p className="mt-5">
        <a className="button button-main" href={`/jobs/${jobId}/handover`}>
          Hand over
        </a>
      </p>
      <NetworkFolder jobId={jobId} />
      <ReturnPanel jobId={jobId} returns={returns} />
    </div>
  )
}
