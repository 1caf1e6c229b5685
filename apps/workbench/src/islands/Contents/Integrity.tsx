import type { Flaw } from '@lumbrin/core/backup/integrity'
import { addressOf } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Moment } from '../../components/times'
import { formatBytes, formatCount, plural } from '../../domain/format'
import { useCheck } from './useCheck'

const FLAWS: Record<Flaw, string> = {
  missing: 'listed, but not there',
  cut: 'shorter than listed',
  'too-long': 'longer than listed',
  locked: 'no key opens it',
  'wrong-id': 'under another id than its place gives',
  'size-unknown': 'with a damaged record',
}

/** Whether the source is whole. */
export function Integrity({ sourceId }: { sourceId: number }) {
  const path = { source: sourceId }
  const { report, at, failed, state, stop, start } = useCheck(sourceId)
  if (failed) return <Failure className="m-5">{failed}</Failure>
  if (!report)
    return (
      <div className="space-y-3 p-5" role="status">
        <p className="text-soft">
          {state === 'stopped'
            ? 'The check was stopped; nothing is known of the rest.'
            : `Checking every entry of the source: ${formatCount(at.checked)} of ${formatCount(at.of)}`}
        </p>
        {state === 'running' && (
          <progress className="w-80" max={at.of || 1} value={at.checked} aria-label="Entries checked" />
        )}
        <p>
          <button type="button" className="button" onClick={state === 'running' ? stop : start}>
            {state === 'running' ? 'Stop' : 'Begin again'}
          </button>
        </p>
      </div>
    )
  const flawed = report.files - report.whole
  const found = (Object.keys(FLAWS) as Flaw[]).filter((flaw) => report.flaws[flaw] > 0)
  return (
    <div className="min-h-0 flex-1 space-y-4 overflow-auto p-5">
      <div className="flex items-baseline gap-4">
        <p className="text-lg">
          {flawed === 0
            ? `All ${formatCount(report.files)} files are there, as long as they should be.`
            : `${formatCount(report.whole)} of ${formatCount(report.files)} files are whole; ${plural(flawed, 'file is', 'files are')} not.`}
        </p>
        <span className="ml-auto flex gap-2">
          <a className="button" href={addressOf('GET /api/sources/{source}/integrity/page', { path })}>
            Save as a page
          </a>
          <a
            className="button"
            href={addressOf('GET /api/sources/{source}/integrity', { path })}
            download="integrity.json"
          >
            Save as JSON
          </a>
        </span>
      </div>
      <p className="text-soft">
        {formatBytes(report.bytes)} of content, {plural(report.folders, 'folder')}, {plural(report.links, 'link')},{' '}
        {plural(report.strays, 'content')} that no entry names. Checked <Moment at={report.checkedAt} />; contents were
        not read.
      </p>
      {found.length > 0 && (
        <ul>
          {found.map((flaw) => (
            <li key={flaw}>
              {formatCount(report.flaws[flaw])} {FLAWS[flaw]}
            </li>
          ))}
        </ul>
      )}
      {report.flawed.length > 0 && (
        <table className="table table-dense text-sm">
          <thead>
            <tr>
              <th>File</th>
              <th>What is wrong</th>
            </tr>
          </thead>
          <tbody>
            {report.flawed.map((entry) => (
              <tr key={`${entry.domain}/${entry.path}`}>
                <td className="font-mono break-all">
                  {entry.domain}/{entry.path}
                </td>
                <td>{entry.why}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  )
}
