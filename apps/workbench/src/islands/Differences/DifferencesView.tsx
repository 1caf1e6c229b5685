import { max, scaleSymlog } from 'd3'
import { ErrorBoundary } from '../../components/ErrorBoundary'
import { formatBytes, formatCount, formatDay, plural } from '../../components/format'
import { CATEGORY_LABELS } from '../../components/labels'
import type { Wire } from '../../components/wire'
import type { SourceRow } from '../../database/sources'
import type { Difference, Example } from '../../services/differences'

interface Props {
  jobId: number
  first: Wire<SourceRow>
  second: Wire<SourceRow>
  lines: Difference[]
}

const nameOf = (source: Wire<SourceRow>) => source.info.deviceName ?? source.path

/** What a full restore of one source onto the state of another would bring back, and what it would wipe. */
export function DifferencesView(props: Props) {
  return (
    <ErrorBoundary>
      <Differences {...props} />
    </ErrorBoundary>
  )
}

function Differences({ jobId, first, second, lines }: Props) {
  const query = `first=${first.id}&second=${second.id}`
  const sum = (name: 'onlyFirst' | 'onlySecond' | 'bytesFirst' | 'bytesSecond' | 'changed') =>
    lines.reduce((all, line) => all + line[name], 0)
  const widest = max(lines, (line) => Math.max(line.onlyFirst, line.onlySecond)) || 1
  return (
    <div className="min-h-0 flex-1 space-y-5 overflow-auto p-5">
      <div className="flex flex-wrap items-baseline gap-4">
        <h2 className="text-lg">Restore cost</h2>
        <p className="text-soft">
          “{nameOf(first)}” of {formatDay(first.takenAt)}, restored onto “{nameOf(second)}” as of{' '}
          {formatDay(second.takenAt)}
        </p>
        <span className="ml-auto flex gap-2">
          <a className="button" href={`/jobs/${jobId}/differences?first=${second.id}&second=${first.id}`}>
            Swap
          </a>
          <a className="button" href={`/api/jobs/${jobId}/differences?${query}`}>
            Save as CSV
          </a>
          <a className="button" href={`/jobs/${jobId}/sources`}>
            Back to the sources
          </a>
        </span>
      </div>
      {lines.length === 0 ? (
        <p className="text-soft">
          Neither source shows a live item that was read. Read both for the same categories, then compare them again.
        </p>
      ) : (
        <>
          <p className="max-w-4xl text-lg">
            {plural(sum('onlyFirst'), 'item')} ({formatBytes(sum('bytesFirst'))}) would come back,{' '}
            <strong>
              {plural(sum('onlySecond'), 'item')} ({formatBytes(sum('bytesSecond'))}) would be wiped
            </strong>
            , {plural(sum('changed'), 'item')} would go back to an earlier state.
          </p>
          <table className="table w-full">
            <thead>
              <tr>
                <th>Category</th>
                <th className="w-[34%] !text-right">Comes back</th>
                <th className="w-[34%]">Is wiped</th>
                <th className="!text-right">Changed</th>
                <th className="!text-right">In both</th>
              </tr>
            </thead>
            <tbody>
              {lines.map((line) => (
                <Line key={line.category} line={line} widest={widest} />
              ))}
            </tbody>
          </table>
          <p className="text-sm text-soft">
            Bars grow with the order of magnitude. Only what both sources were read for can be compared; items in a bin
            count as not there.
          </p>
        </>
      )}
    </div>
  )
}

function Line({ line, widest }: { line: Difference; widest: number }) {
  const width = scaleSymlog().domain([0, widest]).range([0, 80])
  return (
    <tr className="align-top">
      <th scope="row" className="font-semibold">
        {CATEGORY_LABELS[line.category]}
      </th>
      <td>
        <div className="flex items-center justify-end gap-2">
          <span className="figure">{formatCount(line.onlyFirst)}</span>
          <span className="block h-4 rounded-l-sm bg-earlier" style={{ width: `${width(line.onlyFirst)}%` }} />
        </div>
        <Examples items={line.examplesFirst} more={line.onlyFirst} right />
      </td>
      <td>
        <div className="flex items-center gap-2">
          <span className="block h-4 rounded-r-sm bg-partial" style={{ width: `${width(line.onlySecond)}%` }} />
          <span className="figure">{formatCount(line.onlySecond)}</span>
        </div>
        <Examples items={line.examplesSecond} more={line.onlySecond} />
      </td>
      <td className="figure text-right">{formatCount(line.changed)}</td>
      <td className="figure text-right">{formatCount(line.both)}</td>
    </tr>
  )
}

function Examples({ items, more, right = false }: { items: Example[]; more: number; right?: boolean }) {
  if (items.length === 0) return null
  return (
    <ul className={`mt-1 text-sm text-soft ${right ? 'text-right' : ''}`}>
      {items.slice(0, 3).map((item) => (
        <li key={item.id} className="truncate" dir="auto">
          {item.title}
          {item.text && item.text !== item.title ? `: ${item.text.slice(0, 60)}` : ''}
        </li>
      ))}
      {more > 3 && <li>and {formatCount(more - 3)} more</li>}
    </ul>
  )
}
