import { LOST_STANDINGS } from '@lumbrin/core/findings/standing'
import {
  extent,
  type GeoPermissibleObjects,
  geoNaturalEarth1,
  geoPath,
  zoom as makeZoom,
  select,
  type ZoomTransform,
  zoomIdentity,
} from 'd3'
import { useEffect, useMemo, useRef, useState } from 'react'
import { feature } from 'topojson-client'
import atlas from 'world-atlas/countries-110m.json'
import { StandingMark } from '../../components/StandingMark'
import type { Point } from '../../domain/finding'
import type { FindingsQuery } from '../../domain/findings-query'
import { formatCount, plural } from '../../domain/format'
import type { Choosing } from './choosing'
import { type Cluster, clustered } from './clusters'
import { EmptyResults } from './EmptyResults'
import { useFindingLine, usePoints } from './useFindings'

const WIDTH = 900
const HEIGHT = 460
const MOST_LISTED = 200
// The atlas is in the public domain (Natural Earth).
const land = feature(atlas as never, (atlas as never as { objects: { countries: never } }).objects.countries) as never
const projection = geoNaturalEarth1().fitExtent(
  [
    [4, 4],
    [WIDTH - 4, HEIGHT - 4],
  ],
  { type: 'Sphere' },
)
const outline = geoPath(projection)(land as GeoPermissibleObjects) ?? ''

// No closer than some hundred kilometres at first: an outline has nothing more to show.
const CLOSEST_AT_FIRST = 60
const EDGE = 0.7

/** The part of the drawing that holds all points. */
function around(points: readonly Point[]): ZoomTransform {
  const places = points.flatMap(({ latitude, longitude }) => {
    const at = projection([longitude, latitude])
    return at ? [at] : []
  })
  if (places.length === 0) return zoomIdentity
  const [left = 0, right = 0] = extent(places, ([x]) => x)
  const [top = 0, bottom = 0] = extent(places, ([, y]) => y)
  const scale = Math.min(CLOSEST_AT_FIRST, EDGE / Math.max((right - left) / WIDTH, (bottom - top) / HEIGHT, 1e-6))
  return zoomIdentity
    .translate(WIDTH / 2, HEIGHT / 2)
    .scale(Math.max(1, scale))
    .translate(-(left + right) / 2, -(top + bottom) / 2)
}

/** Findings on an outline of the world that ships with the application. */
export function MapView({ jobId, query, choosing }: { jobId: number; query: FindingsQuery; choosing: Choosing }) {
  const { data, isLoading, error } = usePoints(jobId, query)
  const [transform, setTransform] = useState<ZoomTransform>(zoomIdentity)
  const [picked, setPicked] = useState<Cluster | null>(null)
  const map = useRef<SVGSVGElement>(null)
  const zoom = useMemo(
    () =>
      makeZoom<SVGSVGElement, unknown>()
        .scaleExtent([1, 4000])
        .on('zoom', ({ transform: now }) => setTransform(now)),
    [],
  )
  const points = data?.points
  useEffect(() => {
    if (!map.current || !points) return
    const box = select(map.current).call(zoom)
    box.call(zoom.transform, around(points))
  }, [zoom, points])
  const clusters = useMemo(() => {
    const placed = (data?.points ?? []).flatMap((point) => {
      const at = projection([point.longitude, point.latitude])
      return at ? [{ ...point, x: transform.applyX(at[0]), y: transform.applyY(at[1]) }] : []
    })
    return clustered(placed, WIDTH, HEIGHT)
  }, [data, transform])
  const whole = () => map.current && select(map.current).call(zoom.transform, zoomIdentity)
  const near = () => map.current && points && select(map.current).call(zoom.transform, around(points))
  const closer = (factor: number) => map.current && select(map.current).call(zoom.scaleBy, factor)
  return (
    <div className="flex min-h-0 min-w-0 flex-col">
      <div className="flex items-center gap-3 px-5 py-2 text-soft">
        <button type="button" className="button" onClick={() => closer(2)} aria-label="Closer">
          +
        </button>
        <button type="button" className="button" onClick={() => closer(0.5)} aria-label="Further away">
          −
        </button>
        <button type="button" className="button" onClick={near}>
          All findings
        </button>
        <button type="button" className="button" onClick={whole}>
          Whole world
        </button>
        <span>
          {data && `${plural(data.points.length, 'finding')} with a place${data.more ? ', the newest of more' : ''}`}
        </span>
      </div>
      {data?.points.length === 0 ? (
        <div className="p-5">
          <EmptyResults loading={isLoading} error={error} query={query} />
        </div>
      ) : (
        <svg ref={map} viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="min-h-0 w-full flex-1 bg-sunk">
          <title>Where the findings were made</title>
          <path
            d={outline}
            transform={transform.toString()}
            className="fill-paper stroke-rule"
            strokeWidth={1 / transform.k}
          />
          {clusters.map((cluster) => (
            <ClusterMark
              key={`${cluster.x} ${cluster.y}`}
              cluster={cluster}
              current={cluster.points[0]?.id === picked?.points[0]?.id}
              pick={() => setPicked(cluster)}
            />
          ))}
        </svg>
      )}
      {picked && <PickedList cluster={picked} choosing={choosing} />}
    </div>
  )
}

function ClusterMark({ cluster, current, pick }: { cluster: Cluster; current: boolean; pick: () => void }) {
  const { x, y, points } = cluster
  const lost = points.some((point) => LOST_STANDINGS.includes(point.standing))
  const radius = 7 + 3 * Math.log10(points.length)
  return (
    // biome-ignore lint/a11y/useSemanticElements: buttons cannot stand inside of a drawing
    <g
      role="button"
      tabIndex={0}
      aria-label={`${plural(points.length, 'finding')} here`}
      aria-pressed={current}
      className="cursor-pointer"
      onClick={pick}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' && event.key !== ' ') return
        event.preventDefault()
        pick()
      }}
      transform={`translate(${x} ${y})`}
    >
      <circle
        r={radius}
        className={`${lost ? 'fill-earlier' : 'fill-kept'} ${current ? 'stroke-ink' : 'stroke-paper'}`}
        strokeWidth={2}
      />
      <text textAnchor="middle" dy="0.35em" className="fill-paper text-[9px] font-semibold">
        {points.length > 1 ? formatCount(points.length) : ''}
      </text>
    </g>
  )
}

function PickedList({ cluster, choosing }: { cluster: Cluster; choosing: Choosing }) {
  const show = useFindingLine(choosing.look)
  return (
    <ul className="h-40 shrink-0 overflow-auto border-t border-rule px-5 py-2" aria-label="Findings at this place">
      {cluster.points.slice(0, MOST_LISTED).map(({ id, title, standing }) => (
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
      {cluster.points.length > MOST_LISTED && (
        <li className="text-soft">and {formatCount(cluster.points.length - MOST_LISTED)} more; go closer</li>
      )}
    </ul>
  )
}
