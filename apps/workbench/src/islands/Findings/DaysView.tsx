import { StandingMark } from '../../components/StandingMark'
import type { Day } from '../../domain/finding'
import type { FindingsQuery } from '../../domain/findings-query'
import { formatCount } from '../../domain/format'
import type { Choosing } from './choosing'
import { ItemList } from './ItemList'
import { addMonths, dayName, type MonthGrid, monthGrid, monthName } from './months'
import { useDays, useTimeline } from './useFindings'

interface Props {
  jobId: number
  query: FindingsQuery
  change: (part: Partial<FindingsQuery>) => void
  choosing: Choosing
}

/** Findings on the days of a month; a day that is picked lists its own below. */
export function DaysView({ jobId, query, change, choosing }: Props) {
  const { data: timeline } = useTimeline(jobId, query)
  const newest = timeline?.bins.at(-1)?.from.slice(0, 7)
  const month = query.month ?? (query.fromDay ?? newest ?? new Date().toISOString()).slice(0, 7)
  const { data: days = [] } = useDays(jobId, query, month)
  const byDay = new Map(days.map((day) => [day.day, day]))
  const picked = query.fromDay !== null && query.fromDay === query.toDay ? query.fromDay : null
  const turn = (by: number) => change({ month: addMonths(month, by) })
  const pick = (day: string) =>
    change(day === picked ? { fromDay: null, toDay: null } : { fromDay: day, toDay: day, month })
  return (
    <div className="flex min-h-0 min-w-0 flex-col">
      <div className="flex items-center gap-3 px-5 py-2">
        <button type="button" className="button" onClick={() => turn(-1)} aria-label="Month before">
          ←
        </button>
        <h2 className="w-40 text-center">{monthName(month)}</h2>
        <button type="button" className="button" onClick={() => turn(1)} aria-label="Month after">
          →
        </button>
        {newest && newest !== month && (
          <button type="button" className="text-accent underline" onClick={() => change({ month: newest })}>
            newest
          </button>
        )}
        {days.length === 0 && <span className="text-soft">Nothing in this month.</span>}
      </div>
      <Month grid={monthGrid(month)} byDay={byDay} picked={picked} pick={pick} />
      {picked ? (
        <ItemList jobId={jobId} query={{ ...query, order: 'oldest' }} change={change} choosing={choosing} />
      ) : (
        <p className="px-5 py-3 text-soft">Pick a day to list its findings.</p>
      )}
    </div>
  )
}

interface MonthProps {
  grid: MonthGrid
  byDay: Map<string, Day>
  picked: string | null
  pick: (day: string) => void
}

function Month({ grid, byDay, picked, pick }: MonthProps) {
  return (
    <table className="mx-5 w-[calc(100%-2.5rem)] shrink-0 table-fixed border-collapse">
      <thead>
        <tr>
          {grid.names.map((name) => (
            <th key={name} className="border-b border-rule pb-1 text-left text-sm font-normal text-soft">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {grid.weeks.map((week) => (
          <tr key={week.find(Boolean)}>
            {week.map((day, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: places of a week never move
              <td key={i} className="h-14 border-b border-rule p-0 align-top">
                {day && <DayCell day={day} holds={byDay.get(day)} current={day === picked} pick={() => pick(day)} />}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function DayCell({
  day,
  holds,
  current,
  pick,
}: {
  day: string
  holds: Day | undefined
  current: boolean
  pick: () => void
}) {
  if (!holds) return <span className="block px-1.5 py-0.5 text-soft">{Number(day.slice(8))}</span>
  return (
    <button
      type="button"
      aria-pressed={current}
      aria-label={`${dayName(day)}: ${holds.total} findings, ${holds.lost} gone from the device`}
      className="block h-14 w-full overflow-hidden px-1.5 py-0.5 text-left hover:bg-sunk aria-pressed:bg-wash"
      onClick={pick}
    >
      <span className="flex justify-between">
        <span className="font-semibold">{Number(day.slice(8))}</span>
        <span className="text-sm text-soft">
          {formatCount(holds.total)}
          {holds.lost > 0 && `, ${formatCount(holds.lost)} lost`}
        </span>
      </span>
      {holds.first.slice(0, 2).map(({ id, title, standing }) => (
        <span key={id} className="private flex items-center gap-1 truncate text-xs leading-4">
          <StandingMark standing={standing} />
          <span className="truncate">{title || 'Without a name'}</span>
        </span>
      ))}
    </button>
  )
}
