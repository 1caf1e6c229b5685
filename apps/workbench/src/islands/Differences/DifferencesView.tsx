import { max, scaleSymlog } from 'd3'
import { addressOf } from '../../api/client'
import { Island } from '../../components/Island'
import { useTimes, type Zoned } from '../../components/times'
import type { ComparedPart, Difference, Example, RestoreCost } from '../../domain/difference'
import { formatBytes, formatCount, plural } from '../../domain/format'
import { CATEGORY_LABELS } from '../../domain/labels'
import type { Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'

interface Props extends Zoned {
  jobId: number
  first: Wire<Source>
  second: Wire<Source>
  cost: RestoreCost
}

const nameOf = (source: Wire<Source>) => source.info.deviceName ?? source.path

/** What a full restore of one source onto the state of another would bring back, and what it would wipe. */
export function DifferencesView(props: Props) {
  return (
    <Island zone={props.zone}>
      <Differences {...props} />
    </Island>
  )
}

function Differences({ jobId, first, second, cost: { lines, notCompared } }: Props) {
  const { day } = useTimes()
  const table = (items: boolean) =>
    addressOf('GET /api/jobs/{job}/differences', {
      path: { job: jobId },
      query: { first: first.id, second: second.id, items: String(items) },
    })
  const link: LinkTo = (line, part) =>
    `/jobs/${jobId}/findings?category=${line.category}&compared=${first.id},${second.id},${part}`
  const sum = (name: 'onlyFirst' | 'onlySecond' | 'bytesFirst' | 'bytesSecond' | 'changed') =>
    lines.reduce((all, line) => all + line[name], 0)
  const widest = max(lines, (line) => Math.max(line.onlyFirst, line.onlySecond)) || 1
  return (
    <div className="min-h-0 flex-1 space-y-5 overflow-auto p-5">
      <div className="flex flex-wrap items-baseline gap-4">
        <h2 className="text-lg">Restore cost</h2>
        <p className="text-soft">
          “{nameOf(first)}” of {day(first.takenAt)}, restored onto “{nameOf(second)}” as of {day(second.takenAt)}
        </p>
        <span className="ml-auto flex gap-2">
          <a className="button" href={`/jobs/${jobId}/differences?first=${second.id}&second=${first.id}`}>
            Swap
          </a>
          <a className="button" href={table(false)}>
            Save counts as CSV
          </a>
          <a className="button" href={table(true)}>
            Save items as CSV
          </a>
          <a className="button" href={`/jobs/${jobId}/sources`}>
            Back to the sources
          </a>
        </span>
      </div>
      {lines.length === 0 ? (
        <p className="text-soft">
          Nothing can be compared yet. Read both sources for the same categories, then come back.
        </p>
      ) : (
        <>
          <p className="max-w-4xl text-lg">
            {plural(sum('onlyFirst'), 'item')} ({formatBytes(sum('bytesFirst'))}) would come back,{' '}
            <strong>
              {plural(sum('onlySecond'), 'item')} ({formatBytes(sum('bytesSecond'))}) would be wiped
            </strong>
            , {plural(sum('changed'), 'item')} would go back to an earlier state.
            {notCompared.length > 0 && (
              <>
                {' '}
                <strong>
                  {plural(notCompared.length, 'kind')} of item {notCompared.length === 1 ? 'was' : 'were'} not compared
                </strong>
                : what a restore does to them is not known.
              </>
            )}
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
                <Line key={line.category} line={line} widest={widest} link={link} />
              ))}
            </tbody>
          </table>
          <p className="text-sm text-soft">Bars grow with the order of magnitude. Items in a bin count as not there.</p>
        </>
      )}
      {notCompared.length > 0 && <NotCompared notCompared={notCompared} />}
    </div>
  )
}

type LinkTo = (line: Difference, part: ComparedPart) => string

/** What nothing is known of, each with its reason. */
function NotCompared({ notCompared }: Pick<RestoreCost, 'notCompared'>) {
  const byReason = new Map<string, string[]>()
  for (const { category, why } of notCompared)
    byReason.set(why, [...(byReason.get(why) ?? []), CATEGORY_LABELS[category]])
  return (
    <section aria-label="Not compared">
      <h3 className="font-semibold">Not compared</h3>
      <ul className="mt-1 max-w-4xl space-y-1">
        {[...byReason].map(([why, labels]) => (
          <li key={why}>
            {labels.join(', ')}: <span className="text-soft">{why}</span>
          </li>
        ))}
      </ul>
    </section>
  )
}

/** A count that opens what it counts. */
function Count({ count, href, label }: { count: number; href: string; label: string }) {
  if (count === 0) return <span className="figure text-soft">0</span>
  return (
    <a
      className="figure text-accent underline underline-offset-2"
      href={href}
      aria-label={`${formatCount(count)}, ${label}`}
    >
      {formatCount(count)}
    </a>
  )
}

function Line({ line, widest, link }: { line: Difference; widest: number; link: LinkTo }) {
  const width = scaleSymlog().domain([0, widest]).range([0, 80])
  return (
    <tr className="align-top">
      <th scope="row" className="font-semibold">
        {CATEGORY_LABELS[line.category]}
      </th>
      <td>
        <div className="flex items-center justify-end gap-2">
          <Count
            count={line.onlyFirst}
            href={link(line, 'comes-back')}
            label={`${CATEGORY_LABELS[line.category]} come back`}
          />
          <span className="block h-4 rounded-l-sm bg-earlier" style={{ width: `${width(line.onlyFirst)}%` }} />
        </div>
        <Examples items={line.examplesFirst} more={line.onlyFirst} right />
      </td>
      <td>
        <div className="flex items-center gap-2">
          <span className="block h-4 rounded-r-sm bg-partial" style={{ width: `${width(line.onlySecond)}%` }} />
          <Count
            count={line.onlySecond}
            href={link(line, 'wiped')}
            label={`${CATEGORY_LABELS[line.category]} are wiped`}
          />
        </div>
        <Examples items={line.examplesSecond} more={line.onlySecond} />
      </td>
      <td className="text-right">
        <Count count={line.changed} href={link(line, 'changed')} label={`${CATEGORY_LABELS[line.category]} changed`} />
      </td>
      <td className="text-right">
        <Count count={line.both} href={link(line, 'both')} label={`${CATEGORY_LABELS[line.category]} in both`} />
      </td>
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
