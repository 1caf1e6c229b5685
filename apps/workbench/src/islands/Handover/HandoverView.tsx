import { useState } from 'react'
import { sendJson, wordsOf } from '../../components/api'
import { ErrorBoundary } from '../../components/ErrorBoundary'
import { formatBytes, formatCount, formatTime, plural } from '../../components/format'
import { useJobProgress } from '../../components/useJobProgress'
import type { Wire } from '../../components/wire'
import type { HandoverRow } from '../../database/tray'
import type { JobProgress } from '../../services/progress'
import { CheckAgain } from './CheckAgain'

interface Props {
  jobId: number
  roots: string[]
  suggested: string
  progress: Wire<JobProgress>
}

/** Writes the tray into a folder or a zip, and lists what was handed over before. */
export function HandoverView(props: Props) {
  return (
    <ErrorBoundary>
      <Handover {...props} />
    </ErrorBoundary>
  )
}

function Handover({ jobId, roots, suggested, progress: first }: Props) {
  const { tray, handovers } = useJobProgress(jobId, first)
  const [folder, setFolder] = useState(suggested)
  const [failed, setFailed] = useState('')
  const items = tray.reduce((sum, line) => sum + line.count, 0)
  const bytes = tray.reduce((sum, line) => sum + line.bytes, 0)
  const start = async (to: { kind: 'folder'; folder: string } | { kind: 'zip' }) => {
    setFailed('')
    await sendJson('POST', `/api/jobs/${jobId}/handovers`, to).catch((thrown) => setFailed(wordsOf(thrown)))
  }
  return (
    <div className="max-w-5xl space-y-8 overflow-auto p-5">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault()
          void start({ kind: 'folder', folder })
        }}
      >
        <p>
          <strong>{plural(items, 'item')}</strong> in the tray, {formatBytes(bytes)}.{' '}
          {items === 0 && (
            <a className="text-accent underline underline-offset-2" href={`/jobs/${jobId}/findings`}>
              Pick some in Findings first.
            </a>
          )}
        </p>
        <label className="block">
          <span className="mb-1 block">
            <span className="font-semibold">Folder for the package</span>{' '}
            <span className="text-sm text-soft">
              new, empty, or an earlier handover, to which only what is new is added; below {roots.join(' or ')}
            </span>
          </span>
          <input
            className="field font-mono text-sm"
            value={folder}
            onChange={(event) => setFolder(event.target.value)}
            required
          />
        </label>
        <div className="flex gap-3">
          <button type="submit" className="button button-main" disabled={items === 0}>
            Write the package
          </button>
          <button type="button" className="button" disabled={items === 0} onClick={() => start({ kind: 'zip' })}>
            Make a zip to download
          </button>
        </div>
        {failed && (
          <p className="notice notice-bad" role="alert">
            {failed}
          </p>
        )}
      </form>
      <section aria-label="Handovers">
        <h2 className="mb-2">Handovers of this job</h2>
        {handovers.length === 0 && <p className="text-soft">None yet.</p>}
        {handovers.map((handover) => (
          <HandoverCard key={handover.id} handover={handover} />
        ))}
      </section>
    </div>
  )
}

function HandoverCard({ handover }: { handover: Wire<HandoverRow> }) {
  const { summary, state } = handover
  return (
    <article className="border-t border-rule py-4" data-handover-state={state}>
      <div className="flex items-baseline gap-3">
        <strong>{{ queued: 'Waiting', running: 'Writing…', done: 'Done', failed: 'Failed' }[state]}</strong>
        <span className="text-soft">{formatTime(handover.createdAt)} UTC</span>
        {handover.kind === 'zip' && state === 'done' && (
          <a className="button" href={`/api/handovers/${handover.id}/zip`} download>
            Download the zip
          </a>
        )}
      </div>
      {(state === 'queued' || state === 'running') && (
        <progress className="mt-2 w-full" max={handover.total} value={handover.done} aria-label="Items written" />
      )}
      {handover.error && (
        <p className="notice notice-bad mt-2" role="alert">
          {handover.error}
        </p>
      )}
      {summary && (
        <>
          <p className="mt-1">
            {summary.items === 0 ? 'Nothing new' : plural(summary.items, 'item')} in {plural(summary.files, 'file')},{' '}
            {formatBytes(summary.bytes)}, each with its SHA-256 checksum.
          </p>
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
      )}
    </article>
  )
}
