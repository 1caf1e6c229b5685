import { scaleLinear } from 'd3'
import type { PageView } from '../../domain/contents'
import { SPANS } from './uses'

/** A page from its first byte to its last, by what its parts are. */
export function PageStripe({ view, size, row }: { view: PageView; size: number; row: number }) {
  const x = scaleLinear([0, size], [0, 1000])
  const chosen = view.rows[row]
  return (
    <div>
      <svg viewBox="0 0 1000 26" preserveAspectRatio="none" className="h-7 w-full" role="img">
        <title>Layout of the page</title>
        {view.spans.map((span) => (
          <rect
            key={span.start}
            x={x(span.start)}
            width={Math.max(0.7, x(span.end) - x(span.start) - 0.7)}
            y={2}
            height={22}
            style={{ fill: `var(${SPANS[span.kind].color})` }}
          />
        ))}
        {chosen && (
          <rect
            x={x(chosen.start)}
            width={Math.max(2, x(chosen.end) - x(chosen.start))}
            y={1}
            height={24}
            fill="none"
            stroke="var(--ink)"
            strokeWidth={2}
            vectorEffect="non-scaling-stroke"
          />
        )}
      </svg>
      <ul className="mt-1 flex flex-wrap gap-x-4 text-sm text-soft">
        {[...new Set(view.spans.map((span) => span.kind))].map((kind) => (
          <li key={kind} className="flex items-center gap-1.5">
            <span aria-hidden="true" className="size-2.5" style={{ background: `var(${SPANS[kind].color})` }} />
            {SPANS[kind].label}
          </li>
        ))}
      </ul>
    </div>
  )
}
