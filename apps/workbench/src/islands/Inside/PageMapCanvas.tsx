import { scaleOrdinal } from 'd3'
import { useEffect, useMemo, useRef, useState } from 'react'
import type { PageMap } from '../../domain/contents'
import { USES } from './uses'

interface Props {
  map: PageMap
  page: number
  choose: (page: number) => void
}

const MOST_SIDE = 14
const LEAST_SIDE = 2

/** Every page of the file as a square, row by row, coloured by use. Arrows move, a click chooses. */
export function PageMapCanvas({ map, page, choose }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const [width, setWidth] = useState(0)
  const [theme, setTheme] = useState('')
  const [under, setUnder] = useState<number | null>(null)
  useEffect(() => {
    const watcher = new ResizeObserver(([entry]) => setWidth(Math.floor(entry?.contentRect.width ?? 0)))
    if (box.current) watcher.observe(box.current)
    const themes = new MutationObserver(() => setTheme(document.documentElement.dataset.theme ?? ''))
    themes.observe(document.documentElement, { attributeFilter: ['data-theme'] })
    return () => {
      watcher.disconnect()
      themes.disconnect()
    }
  }, [])
  const side = sideFor(map.pageCount, width)
  const columns = Math.max(1, Math.floor(width / side))
  const rows = Math.ceil(map.pageCount / columns)
  // biome-ignore lint/correctness/useExhaustiveDependencies: colours follow the theme
  const colors = useMemo(() => {
    if (typeof document === 'undefined') return scaleOrdinal<string, string>()
    const style = getComputedStyle(document.documentElement)
    return scaleOrdinal(
      USES.map((_, digit) => String(digit)),
      USES.map((use) => style.getPropertyValue(use.color).trim()),
    )
  }, [theme])
  useEffect(() => {
    const context = canvas.current?.getContext('2d')
    if (!context || width === 0) return
    context.clearRect(0, 0, width, rows * side)
    const inner = side > 4 ? side - 1 : side
    // One colour at a time: changing it is what costs.
    for (let use = 0; use < USES.length; use++) {
      context.fillStyle = colors(String(use))
      for (let at = map.uses.indexOf(String(use)); at >= 0; at = map.uses.indexOf(String(use), at + 1))
        context.fillRect((at % columns) * side, Math.floor(at / columns) * side, inner, inner)
    }
  }, [map, width, columns, rows, side, colors])
  const pageAt = (event: React.PointerEvent | React.MouseEvent) => {
    const { left, top } = event.currentTarget.getBoundingClientRect()
    const found = Math.floor((event.clientY - top) / side) * columns + Math.floor((event.clientX - left) / side) + 1
    return found >= 1 && found <= map.pageCount ? found : null
  }
  const move = (event: React.KeyboardEvent) => {
    const step = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -columns, ArrowDown: columns }[event.key]
    const next = event.key === 'Home' ? 1 : event.key === 'End' ? map.pageCount : step && page + step
    if (!next) return
    event.preventDefault()
    choose(Math.min(map.pageCount, Math.max(1, next)))
  }
  const label = (number: number) => `page ${number}: ${USES[Number(map.uses[number - 1])]?.label}`
  return (
    <div ref={box} className="min-w-0">
      <div
        role="slider"
        tabIndex={0}
        aria-label="Page in the map"
        aria-valuemin={1}
        aria-valuemax={map.pageCount}
        aria-valuenow={page}
        aria-valuetext={label(page)}
        className="relative"
        style={{ height: rows * side }}
        onKeyDown={move}
        onPointerMove={(event) => setUnder(pageAt(event))}
        onPointerLeave={() => setUnder(null)}
        onClick={(event) => {
          const found = pageAt(event)
          if (found) choose(found)
        }}
      >
        <canvas ref={canvas} width={width} height={rows * side} className="block" />
        <span
          aria-hidden="true"
          className="pointer-events-none absolute outline-2 outline-ink"
          style={{
            left: ((page - 1) % columns) * side,
            top: Math.floor((page - 1) / columns) * side,
            width: side - 1,
            height: side - 1,
          }}
        />
      </div>
      <p className="mt-2 h-5 text-sm text-soft">{label(under ?? page)}</p>
    </div>
  )
}

// The largest square with which the whole file fits a screen; a very large file scrolls.
function sideFor(pages: number, width: number): number {
  for (let side = MOST_SIDE; side > LEAST_SIDE; side--)
    if (Math.ceil(pages / Math.max(1, Math.floor(width / side))) * side < 420) return side
  return LEAST_SIDE
}
