import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useState } from 'react'
import { thumbnailAddress } from '../../components/addresses'
import { StandingMark } from '../../components/StandingMark'
import type { FindingLine } from '../../domain/finding'
import { type FindingsQuery, orderOf, type Tiles } from '../../domain/findings-query'
import { plural } from '../../domain/format'
import { CONTENT_STATE_WORDS } from '../../domain/labels'
import type { Choosing } from './choosing'
import { EmptyResults } from './EmptyResults'
import { useFolded } from './folding'
import { optionProps } from './option'
import { ResultBox, useNextPage } from './ResultBox'
import { useFindings } from './useFindings'
import { useListKeys } from './useListKeys'

const MIN_CELL: Record<Tiles, number> = { small: 88, medium: 140, large: 240 }
const GAP = 8
const PADDING = 32

/** Pictures as a grid, newest first. */
export function PictureGrid({ jobId, query, choosing }: { jobId: number; query: FindingsQuery; choosing: Choosing }) {
  const results = useFindings(jobId, query, orderOf({ ...query, order: 'newest' }))
  const { shown: lines, under } = useFolded(jobId, results.lines, query.folding)
  const [width, setWidth] = useState(900)
  const columns = Math.max(1, Math.floor((width - PADDING + GAP) / (MIN_CELL[query.tiles] + GAP)))
  const cell = Math.floor((width - PADDING + GAP) / columns) - GAP
  const rows = Math.ceil(lines.length / columns)
  const virtual = useVirtualizer({
    count: rows,
    getScrollElement: () => keys.box.current,
    estimateSize: () => cell + GAP,
    overscan: 3,
  })
  const keys = useListKeys(lines, columns, choosing, (index) => virtual.scrollToIndex(Math.floor(index / columns)))
  useEffect(() => {
    const box = keys.box.current
    if (!box) return
    const observer = new ResizeObserver(() => setWidth(box.clientWidth))
    observer.observe(box)
    return () => observer.disconnect()
  }, [keys.box])
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new cell size is what asks for a new measure
  useEffect(() => virtual.measure(), [cell, virtual])
  const shown = virtual.getVirtualItems()
  const foldedAway = results.lines.length - lines.length
  useNextPage(results, ((shown.at(-1)?.index ?? 0) + 1) * columns + foldedAway, 4 * columns)
  return (
    <ResultBox
      label="Photos"
      empty={<EmptyResults loading={results.isLoading} error={results.error} query={query} />}
      results={results}
      choosing={choosing}
      keys={keys}
      height={virtual.getTotalSize()}
      className="p-4"
    >
      {shown.map((row) => (
        <div key={row.key} role="presentation" className="absolute left-0 flex gap-2" style={{ top: row.start }}>
          {lines.slice(row.index * columns, (row.index + 1) * columns).map((line) => (
            <Cell
              key={line.id}
              line={line}
              lines={lines}
              under={under.get(line.id) ?? 0}
              size={cell}
              active={line.id === choosing.active?.id}
              choosing={choosing}
            />
          ))}
        </div>
      ))}
    </ResultBox>
  )
}

/** A tile that was scrolled away takes its request along: what is in view now must not wait for it. */
const loadWhileShown = (image: HTMLImageElement | null) => () => image?.removeAttribute('src')

function Cell({
  line,
  lines,
  under,
  size,
  active,
  choosing,
}: {
  line: FindingLine
  lines: FindingLine[]
  /** Look-alikes that lie under it. */
  under: number
  size: number
  active: boolean
  choosing: Choosing
}) {
  const [broken, setBroken] = useState(false)
  return (
    <div
      role="option"
      tabIndex={-1}
      aria-selected={line.inTray}
      {...optionProps(line, lines, choosing)}
      aria-label={`${line.title}, ${line.standing}${line.inTray ? ', in the tray' : ''}${under > 0 ? `, ${plural(under, 'look-alike')} under it` : ''}`}
      style={{ width: size, height: size }}
      className={`relative flex items-center justify-center overflow-hidden rounded-sm bg-sunk ${active ? 'outline-3 outline-accent' : ''}`}
    >
      {line.hasContent && !broken ? (
        <img
          ref={loadWhileShown}
          src={thumbnailAddress(line.id)}
          alt=""
          decoding="async"
          className="h-full w-full object-cover"
          onError={() => setBroken(true)}
        />
      ) : (
        <span className="px-2 text-center text-sm text-soft">
          {line.title}
          <br />
          {line.hasContent ? cannotShow(line) : 'picture lost, its data is left'}
        </span>
      )}
      {line.standing !== 'kept' && (
        <span className="absolute right-1 bottom-1 rounded-full bg-paper p-1 leading-none">
          <StandingMark standing={line.standing} binnedAt={line.binnedAt} />
        </span>
      )}
      {under > 0 && (
        <span className="absolute bottom-1 left-1 rounded-sm bg-paper px-1.5 text-sm font-semibold">+{under}</span>
      )}
      {line.inTray && (
        <span className="absolute top-1 left-1 rounded-sm bg-accent px-1.5 text-sm font-semibold text-on-accent">
          in tray
        </span>
      )}
    </div>
  )
}

/** Why a picture that is listed is not shown. */
const cannotShow = ({ contentState }: FindingLine) => CONTENT_STATE_WORDS[contentState] || 'cannot be shown'
