import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Island } from '../../components/Island'
import { Moment, useTimes, type Zoned } from '../../components/times'
import { useAct } from '../../components/useAct'
import { formatBytes, formatCount, plural } from '../../domain/format'
import type { Kept } from '../../domain/job'
import type { Wire } from '../../domain/wire'

interface Props extends Zoned {
  jobId: number
  number: string
  kept: Wire<Kept>
}

/** What is kept of a job, until when, and the way to remove it for good. */
export function PurgePanel(props: Props) {
  return (
    <Island zone={props.zone}>
      <Panel {...props} />
    </Island>
  )
}

const COUNTED: [table: string, one: string][] = [
  ['findings', 'finding'],
  ['sightings', 'sighting'],
  ['sources', 'source'],
  ['handovers', 'handover'],
]

function Panel({ jobId, number, kept }: Props) {
  const { day } = useTimes()
  const [typed, setTyped] = useState('')
  const { act, busy, failed } = useAct()
  if (kept.purgedAt)
    return (
      <p className="notice mb-5 max-w-3xl">
        Purged on <Moment at={kept.purgedAt} />. Content of every kind was removed from disk and database; this record
        is what is left.
      </p>
    )
  const purge = (event: React.FormEvent) => {
    event.preventDefault()
    act(async () => {
      await ask('POST /api/jobs/{job}/purge', { path: { job: jobId }, body: { number: typed } })
      location.assign(`/jobs/${jobId}/log`)
    })
  }
  return (
    <section aria-label="What is kept" className="mb-6 max-w-4xl border-b border-rule pb-5">
      <h2>What is kept of this job</h2>
      <p className="text-soft">
        In the database {COUNTED.map(([table, one]) => plural(kept.rows[table] ?? 0, one)).join(', ')}; to be kept until{' '}
        {day(kept.keepUntil)}.
      </p>
      {kept.folders.length > 0 && (
        <ul className="mt-2">
          {kept.folders.map(({ kind, path, bytes, files }) => (
            <li key={path}>
              {kind}: {formatCount(files)} files, {formatBytes(bytes)}{' '}
              <span className="font-mono text-xs text-soft">{path}</span>
            </li>
          ))}
        </ul>
      )}
      <details className="mt-3 border-l-2 border-partial pl-3">
        <summary className="text-partial">Purge this job</summary>
        <p className="mt-1 text-sm">
          Removes all of that for good, with the words of the brief and of the log. Sources that lie elsewhere, and
          packages that were handed over, are not touched. The job’s number, its dates and what was done stay as the
          record.
        </p>
        <form className="mt-2 flex items-center gap-3" onSubmit={purge}>
          <label className="flex items-center gap-2">
            Number of the job
            <input
              className="field w-40 font-mono"
              value={typed}
              onChange={(event) => setTyped(event.target.value)}
              required
            />
          </label>
          <button type="submit" className="button" disabled={busy || typed.trim() !== number}>
            {busy ? 'Removing…' : 'Remove everything'}
          </button>
        </form>
        <Failure className="mt-2">{failed}</Failure>
      </details>
    </section>
  )
}
