import { DAY_MS } from '@lumbrin/core/findings/bin-days'
import { STANDINGS, type Standing } from '@lumbrin/core/findings/standing'
import { brushX, max, scaleSqrt, select, stack } from 'd3'
import { formatISO, addDays as later, parseISO } from 'date-fns'
import { useEffect, useMemo, useRef } from 'react'
import { DateField } from '../../components/DateField'
import type { TimeBin } from '../../domain/finding'
import type { FindingsQuery } from '../../domain/findings-query'
import { formatCount } from '../../domain/format'
import { useTimeline } from './useFindings'

const HEIGHT = 46
const WIDTH = 1200

const FILL: Record<Standing, string> = {
  kept: 'fill-kept/50',
  binned: 'fill-binned',
  earlier: 'fill-earlier',
  rebuilt: 'fill-rebuilt',
  partial: 'fill-partial',
  elsewhere: 'fill-elsewhere',
}

interface Props {
  jobId: number
  query: FindingsQuery
  change: (part: Partial<FindingsQuery>) => void
}

const totalOf = ({ counts }: TimeBin) => STANDINGS.reduce((sum, standing) => sum + (counts[standing] ?? 0), 0)
const addDays = (day: string, days: number) => formatISO(later(parseISO(day), days), { representation: 'date' })

/** The findings over time, stacked by standing; a stretch drawn over it filters them. */
export function Ribbon({ jobId, query, change }: Props) {
  const { data } = useTimeline(jobId, query)
  const bins = data?.bins ?? []
  const days = data?.days ?? 1
  const width = WIDTH / Math.max(1, bins.length)
  const height = scaleSqrt()
    .domain([0, max(bins, totalOf) || 1])
    .range([0, HEIGHT - 4])
  const layers = useMemo(
    () =>
      stack<TimeBin, Standing>()
        .keys(STANDINGS)
        .value((bin, standing) => bin.counts[standing] ?? 0)(data?.bins ?? []),
    [data],
  )
  const first = bins[0]?.from
  const last = bins.at(-1)?.from
  return (
    <div className="border-b border-rule px-5 pt-1.5 pb-0.5">
      <div
        className={bins.length > 1 ? 'relative' : 'hidden'}
        title="Draw over a stretch of time to see only its findings"
      >
        <svg
          viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
          preserveAspectRatio="none"
          className="block h-8 w-full"
          role="img"
          aria-label={`Findings from ${first ?? 'no date'} to ${last ?? 'no date'}`}
        >
          {layers.map((layer) =>
            layer.map(([from, to], i) => {
              const bin = bins[i] as TimeBin
              const all = totalOf(bin)
              if (to === from || all === 0) return null
              // The column grows with the root of its sum; its parts share it by their counts.
              const full = height(all)
              return (
                <rect
                  key={`${layer.key} ${bin.from}`}
                  x={i * width}
                  y={HEIGHT - (full * to) / all}
                  width={Math.max(1, width - 1)}
                  height={(full * (to - from)) / all}
                  className={FILL[layer.key]}
                />
              )
            }),
          )}
        </svg>
        <Brush bins={bins} days={days} query={query} change={change} />
      </div>
      <div className="mt-0.5 flex items-center gap-3 text-sm text-soft">
        <span>{first}</span>
        <span className="mx-auto flex items-center gap-2">
          <DateField inline label="From" value={query.fromDay} change={(fromDay) => change({ fromDay })} />
          <DateField inline label="To" value={query.toDay} change={(toDay) => change({ toDay })} />
          {(query.fromDay || query.toDay) && (
            <button
              type="button"
              className="text-accent underline"
              onClick={() => change({ fromDay: null, toDay: null })}
            >
              all dates
            </button>
          )}
          {data && data.undated > 0 && <span>{formatCount(data.undated)} without a date</span>}
        </span>
        <span>{last && addDays(last, days - 1)}</span>
      </div>
    </div>
  )
}

/** The brush, drawn over the columns; the two date fields do the same for the keyboard. */
function Brush({ bins, days, query, change }: { bins: TimeBin[]; days: number } & Omit<Props, 'jobId'>) {
  const box = useRef<SVGSVGElement>(null)
  const latest = useRef(change)
  latest.current = change
  const first = bins[0]?.from
  useEffect(() => {
    const node = box.current
    if (!node || !first) return
    const { width } = node.getBoundingClientRect()
    const perBin = width / bins.length
    const dayAt = (x: number) => addDays(first, Math.round(x / perBin) * days)
    const brush = brushX<unknown>()
      .extent([
        [0, 0],
        [width, HEIGHT],
      ])
      .on('end', (event) => {
        // Moved by the program, not by a hand.
        if (!event.sourceEvent) return
        const range = event.selection as [number, number] | null
        latest.current(
          range
            ? { fromDay: dayAt(range[0]), toDay: addDays(dayAt(Math.max(range[1], range[0] + perBin)), -1) }
            : { fromDay: null, toDay: null },
        )
      })
    const group = select(node).html('').append('g').call(brush)
    if (query.fromDay || query.toDay) {
      const at = (day: string | null, otherwise: number) =>
        day ? ((Date.parse(day) - Date.parse(first)) / DAY_MS / days) * perBin : otherwise
      const from = Math.max(0, Math.min(width, at(query.fromDay, 0)))
      const to = Math.max(0, Math.min(width, at(query.toDay && addDays(query.toDay, 1), width)))
      if (to > from) brush.move(group, [from, to])
    }
  }, [bins, days, first, query.fromDay, query.toDay])
  return <svg ref={box} className="absolute inset-0 h-8 w-full" aria-hidden="true" />
}
