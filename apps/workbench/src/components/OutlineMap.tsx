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
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react'
import { feature } from 'topojson-client'
import atlas from 'world-atlas/countries-110m.json'
import { formatCount, plural } from '../domain/format'
import { type Cluster, clustered } from './clusters'

/** Something that has a place on the earth. */
export interface MapPoint {
  id: number
  longitude: number
  latitude: number
  lost: boolean
}

const WIDTH = 900
const HEIGHT = 460
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
function around(points: readonly MapPoint[]): ZoomTransform {
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

interface Props<Point extends MapPoint> {
  points: readonly Point[] | undefined
  /** What the points are: "finding". */
  noun: string
  /** Given the points of a mark that was chosen. */
  pick: (points: readonly Point[]) => void
  /** Words beside the buttons. */
  words: ReactNode
  /** Stands in the drawing's place where there are no points. */
  empty: ReactNode
}

/** Points on an outline of the world that ships with the product; those that lie close together are one mark. */
export function OutlineMap<Point extends MapPoint>({ points, noun, pick, words, empty }: Props<Point>) {
  const [transform, setTransform] = useState<ZoomTransform>(zoomIdentity)
  const [picked, setPicked] = useState<number | null>(null)
  const map = useRef<SVGSVGElement>(null)
  const zoom = useMemo(
    () =>
      makeZoom<SVGSVGElement, unknown>()
        .scaleExtent([1, 4000])
        .on('zoom', ({ transform: now }) => setTransform(now)),
    [],
  )
  useEffect(() => {
    if (!map.current || !points) return
    const box = select(map.current).call(zoom)
    box.call(zoom.transform, around(points))
  }, [zoom, points])
  const clusters = useMemo(() => {
    const placed = (points ?? []).flatMap((point) => {
      const at = projection([point.longitude, point.latitude])
      return at ? [{ ...point, x: transform.applyX(at[0]), y: transform.applyY(at[1]) }] : []
    })
    return clustered(placed, WIDTH, HEIGHT)
  }, [points, transform])
  const whole = () => map.current && select(map.current).call(zoom.transform, zoomIdentity)
  const near = () => map.current && points && select(map.current).call(zoom.transform, around(points))
  const closer = (factor: number) => map.current && select(map.current).call(zoom.scaleBy, factor)
  return (
    <>
      <div className="flex flex-wrap items-center gap-3 px-5 py-2 text-soft">
        <button type="button" className="button" onClick={() => closer(2)} aria-label="Closer">
          +
        </button>
        <button type="button" className="button" onClick={() => closer(0.5)} aria-label="Further away">
          −
        </button>
        <button type="button" className="button" onClick={near}>
          All {noun}s
        </button>
        <button type="button" className="button" onClick={whole}>
          Whole world
        </button>
        <span>{words}</span>
      </div>
      {points?.length === 0 ? (
        empty
      ) : (
        <svg ref={map} viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="min-h-0 w-full flex-1 bg-sunk">
          <title>Where the {noun}s were made</title>
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
              noun={noun}
              current={cluster.points[0]?.id === picked}
              pick={() => {
                setPicked(cluster.points[0]?.id ?? null)
                pick(cluster.points)
              }}
            />
          ))}
        </svg>
      )}
    </>
  )
}

interface MarkProps<Point extends MapPoint> {
  cluster: Cluster<Point & { x: number; y: number }>
  noun: string
  current: boolean
  pick: () => void
}

function ClusterMark<Point extends MapPoint>({ cluster, noun, current, pick }: MarkProps<Point>) {
  const { x, y, points } = cluster
  const lost = points.some((point) => point.lost)
  const radius = 7 + 3 * Math.log10(points.length)
  return (
    // biome-ignore lint/a11y/useSemanticElements: buttons cannot stand inside of a drawing
    <g
      role="button"
      tabIndex={0}
      aria-label={`${plural(points.length, noun)} here`}
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
