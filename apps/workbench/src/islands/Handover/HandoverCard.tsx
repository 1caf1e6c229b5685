import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Moment } from '../../components/times'
import { useAct } from '../../components/useAct'
import { formatBytes, formatCount, plural } from '../../domain/format'
import type { Handover } from '../../domain/handover'
import type { Wire } from '../../domain/wire'
import { CheckAgain } from './CheckAgain'
import { HandoverProgress } from './HandoverProgress'

const STATES: Record<Handover['state'], string> = {
  queued: 'Waiting',
  running: 'Writing…',
  stopping: 'Stopping…',
  stopped: 'Stopped; nothing was left at its place',
  done: 'Done',
  failed: 'Failed',
}

/** One handover: how far it is, or what it gave. */
export function HandoverCard({ handover }: { handover: Wire<Handover> }) {
  const { id, summary, state, kind } = handover
  const { act: perform, failed } = useAct()
  const act = (action: 'stop' | 'open') =>
    perform(() => ask(`POST /api/handovers/{handover}/${action}`, { path: { handover: id } }))
  const busy = state === 'queued' || state === 'running'
  return (
    <article className="border-t border-rule py-4" data-handover-state={state}>
      <div className="flex items-baseline gap-3">
        <strong>{STATES[state]}</strong>
        <span className="text-soft">
          <Moment at={handover.createdAt} />
          {state === 'done' && handover.endedAt && `, took ${duration(handover.createdAt, handover.endedAt)}`}
        </span>
        {kind === 'zip' && state === 'done' && (
          <a className="button" href={`/api/handovers/${id}/zip`} download>
            Download the zip
          </a>
        )}
        {kind === 'folder' && state === 'done' && (
          <button type="button" className="button" onClick={() => act('open')}>
            Open folder
          </button>
        )}
        {busy && (
          <button type="button" className="button" onClick={() => act('stop')}>
            Stop
          </button>
        )}
      </div>
      <Failure className="mt-2">{failed}</Failure>
      {(busy || state === 'stopping') && <HandoverProgress handover={handover} />}
      <Failure className="mt-2">{handover.error}</Failure>
      {summary && <Result handover={handover} summary={summary} />}
    </article>
  )
}

function Result({ handover, summary }: { handover: Wire<Handover>; summary: NonNullable<Handover['summary']> }) {
  return (
    <>
      <p className="mt-1">
        {summary.items === 0 ? 'Nothing new' : plural(summary.items, 'item')} in {plural(summary.files, 'file')},{' '}
        {formatBytes(summary.bytes)}, each with its SHA-256 checksum, read back after it was written.
      </p>
      {summary.second && (
        <p className={`mt-1 ${summary.second.why === null ? '' : 'notice notice-bad'}`}>
          {summary.second.why === null ? 'A second copy, read back as well, lies in ' : 'There is no second copy in '}
          <span className="font-mono text-sm">{summary.second.path}</span>
          {summary.second.why !== null && `: ${summary.second.why} The first package is whole.`}
        </p>
      )}
      {summary.missed > 0 && (
        <p className="mt-1">
          <strong>
            {plural(summary.missed, 'item')} {summary.missed === 1 ? 'is' : 'are'} not handed over:
          </strong>{' '}
          the content could not be had. The report lists {summary.missed === 1 ? 'it' : 'them'}.
        </p>
      )}
      {handover.kind === 'folder' && (
        <>
          <p className="mt-1 font-mono text-sm break-all">{summary.path}</p>
          <p className="mt-2 text-soft">
            To check it:{' '}
            <code className="font-mono text-sm text-ink">{`cd '${summary.path}' && sha256sum -c manifest-sha256.txt`}</code>
          </p>
        </>
      )}
      <CheckAgain handoverId={handover.id} />
      {summary.problems.length > 0 && (
        <details className="notice mt-2">
          <summary>{formatCount(summary.problems.length)} could not be written whole</summary>
          <ul className="mt-1 list-disc pl-5">
            {summary.problems.map((problem) => (
              <li key={problem}>{problem}</li>
            ))}
          </ul>
        </details>
      )}
    </>
  )
}

function duration(from: string, to: string): string {
  const seconds = Math.max(1, Math.round((Date.parse(to) - Date.parse(from)) / 1000))
  return seconds < 90 ? `${seconds} s` : `${Math.round(seconds / 60)} min`
}
