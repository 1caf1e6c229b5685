import { DAY_MS } from '@lumbrin/core/findings/bin-days'
import { brushX, select } from 'd3'
import { useEffect, useRef } from 'react'
import type { TimeBin } from '../../domain/finding'
import type { FindingsQuery } from '../../domain/findings-query'
import { addDays } from './months'

interface Props {
  bins: TimeBin[]
  /** How many days a bin spans. */
  days: number
  query: FindingsQuery
  change: (part: Partial<FindingsQuery>) => void
}

/** The brush, drawn over the columns; the two date fields do the same for the keyboard. */
export function RibbonBrush({ bins, days, query, change }: Props) {
  const box = useRef<SVGSVGElement>(null)
  const latest = useRef(change)
  latest.current = change
  const first = bins[0]?.from
  useEffect(() => {
    const node = box.current
    if (!node || !first) return
    const { width, height } = node.getBoundingClientRect()
    const perBin = width / bins.length
    const dayAt = (x: number) => addDays(first, Math.round(x / perBin) * days)
    const brush = brushX<unknown>()
      .extent([
        [0, 0],
        [width, height],
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
