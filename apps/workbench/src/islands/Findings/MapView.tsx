import { LOST_STANDINGS } from '@lumbrin/core/findings/standing'
import { useMemo, useState } from 'react'
import { OutlineMap } from '../../components/OutlineMap'
import { StandingMark } from '../../components/StandingMark'
import type { Point } from '../../domain/finding'
import type { FindingsQuery } from '../../domain/findings-query'
import { formatCount, plural } from '../../domain/format'
import type { Choosing } from './choosing'
import { EmptyResults } from './EmptyResults'
import { useFindingLine, usePoints } from './useFindings'

const MOST_LISTED = 200

/** Findings on an outline of the world. */
export function MapView({ jobId, query, choosing }: { jobId: number; query: FindingsQuery; choosing: Choosing }) {
  const { data, isLoading, error } = usePoints(jobId, query)
  const [picked, setPicked] = useState<readonly Point[] | null>(null)
  const points = useMemo(
    () => data?.points.map((point) => ({ ...point, lost: LOST_STANDINGS.includes(point.standing) })),
    [data],
  )
  return (
    <div className="flex min-h-0 min-w-0 flex-col">
      <OutlineMap
        points={points}
        noun="finding"
        pick={setPicked}
        words={
          data && `${plural(data.points.length, 'finding')} with a place${data.more ? ', the newest of more' : ''}`
        }
        empty={
          <div className="p-5">
            <EmptyResults loading={isLoading} error={error} query={query} />
          </div>
        }
      />
      {picked && <PickedList points={picked} choosing={choosing} />}
    </div>
  )
}

function PickedList({ points, choosing }: { points: readonly Point[]; choosing: Choosing }) {
  const show = useFindingLine(choosing.look)
  return (
    <ul className="h-40 shrink-0 overflow-auto border-t border-rule px-5 py-2" aria-label="Findings at this place">
      {points.slice(0, MOST_LISTED).map(({ id, title, standing }) => (
        <li key={id}>
          <button
            type="button"
            className={`flex w-full items-center gap-2 px-1 py-0.5 text-left hover:bg-sunk ${choosing.active?.id === id ? 'bg-wash' : ''}`}
            onClick={() => show(id)}
          >
            <StandingMark standing={standing} /> <span className="private truncate">{title || 'Without a name'}</span>
          </button>
        </li>
      ))}
      {points.length > MOST_LISTED && (
        <li className="text-soft">and {formatCount(points.length - MOST_LISTED)} more; go closer</li>
      )}
    </ul>
  )
}
