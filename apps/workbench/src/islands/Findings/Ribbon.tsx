import { STANDINGS, type Standing } from '@lumbrin/core/findings/standing'
import { max, stack } from 'd3'
import { Suspense, useMemo } from 'react'
import { atRest } from '../../components/atRest'
import { DateField } from '../../components/DateField'
import type { TimeBin } from '../../domain/finding'
import type { FindingsQuery } from '../../domain/findings-query'
import { formatCount } from '../../domain/format'
import { addDays } from './months'
import { useTimeline } from './useFindings'

const RibbonBrush = atRest(() => import('./RibbonBrush').then((module) => module.RibbonBrush))

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

/** The findings over time, stacked by standing; a stretch drawn over it filters them. */
export function Ribbon({ jobId, query, change }: Props) {
  const { data } = useTimeline(jobId, query)
  const bins = data?.bins ?? []
  const days = data?.days ?? 1
  const width = WIDTH / Math.max(1, bins.length)
  const most = max(bins, totalOf) || 1
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
              const full = (HEIGHT - 4) * Math.sqrt(all / most)
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
        {bins.length > 1 && (
          <Suspense>
            <RibbonBrush bins={bins} days={days} query={query} change={change} />
          </Suspense>
        )}
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
