import type { SiteDays, SiteKind } from '@lumbrin/core/export/site/shapes'
import { useVirtualizer } from '@tanstack/react-virtual'
import { format, parseISO } from 'date-fns'
import { useEffect, useMemo, useRef, useState } from 'react'
import { StandingMark } from '../components/StandingMark'
import { plural } from '../domain/format'
import { PageHead, Scrolled, Waiting } from './Page'
import { linkTo } from './parts'
import { addressOf } from './route'
import { useDays, useItem } from './useParts'
import { useScrollPlace } from './useScrollPlace'

const TILE = 150
const GAP = 8
const HEAD = 52

type Row = { day: string } | { from: number; to: number }

// Where fewer lie on a day, months are what is looked through.
const FEW_A_DAY = 4

/** Days of a gallery, or its months where the days hold little. */
export function shelvesOf(days: SiteDays, count: number): SiteDays {
  if (count >= days.length * FEW_A_DAY) return days
  return days
    .map(([day, from]): SiteDays[number] => [day.slice(0, 7), from])
    .filter(([month], i, all) => month !== all[i - 1]?.[0])
}

/** Days and rows of tiles below them. */
export function rowsOf(days: SiteDays, end: number, columns: number): Row[] {
  return days.flatMap(([day, from], i): Row[] => {
    const to = days[i + 1]?.[1] ?? end
    const rows: Row[] = [{ day }]
    for (let at = from; at < to; at += columns) rows.push({ from: at, to: Math.min(to, at + columns) })
    return rows
  })
}

/** Pictures and films by day, the newest first. */
export function GalleryView({ kind }: { kind: SiteKind }) {
  const { data: days, error } = useDays(kind.id)
  const box = useRef<HTMLElement>(null)
  const [width, setWidth] = useState(0)
  useEffect(() => {
    const element = box.current
    if (!element) return
    const observer = new ResizeObserver(() => setWidth(element.clientWidth - 40))
    observer.observe(element)
    return () => observer.disconnect()
  }, [])
  const columns = Math.max(1, Math.floor((width + GAP) / (TILE + GAP)))
  const size = Math.floor((width + GAP) / columns) - GAP
  const rows = useMemo(
    () => rowsOf(shelvesOf(days ?? [], kind.to - kind.from), kind.to, columns),
    [days, kind, columns],
  )
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: (index) => (rows[index] && 'day' in rows[index] ? HEAD : size + GAP),
    overscan: 4,
  })
  // biome-ignore lint/correctness/useExhaustiveDependencies: another width is what asks for a new measure
  useEffect(() => virtual.measure(), [size, virtual])
  useScrollPlace(box, width > 0 && rows.length > 0)
  return (
    <>
      <PageHead title={kind.label} words={countWords(kind)}>
        <a className="button" href={linkTo(kind.plain)}>
          For printing
        </a>
      </PageHead>
      <Scrolled label={kind.label} ref={box}>
        {!days && <Waiting error={error} />}
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {width > 0 &&
            virtual.getVirtualItems().map((item) => {
              const row = rows[item.index]
              if (!row) return null
              return (
                <div key={item.key} className="absolute left-0 w-full" style={{ top: item.start }}>
                  {'day' in row ? (
                    <h2 className="pt-5 pb-1">{dayWords(row.day)}</h2>
                  ) : (
                    <div className="flex gap-2">
                      {numbersOf(row).map((number) => (
                        <Tile key={number} number={number} size={size} />
                      ))}
                    </div>
                  )}
                </div>
              )
            })}
        </div>
      </Scrolled>
    </>
  )
}

/** "14 November 2026", "November 2026". */
export function dayWords(day: string): string {
  if (day === '') return 'No date'
  return format(parseISO(day), day.length > 7 ? 'd MMMM yyyy' : 'MMMM yyyy')
}

const numbersOf = ({ from, to }: { from: number; to: number }) => Array.from({ length: to - from }, (_, i) => from + i)

export const countWords = ({ from, to, lost }: Pick<SiteKind, 'from' | 'to' | 'lost'>): string =>
  plural(to - from, 'item') + (lost > 0 ? `, ${lost} of them had been lost` : '')

function Tile({ number, size }: { number: number; size: number }) {
  const { data: item } = useItem(number)
  const picture = item?.file?.preview
  const words = item ? [item.title, item.when, item.standing === 'kept' ? '' : item.standing].filter(Boolean) : []
  return (
    <a
      href={addressOf('item', number)}
      aria-label={words.join(', ')}
      style={{ width: size, height: size }}
      className="relative flex items-center justify-center overflow-hidden rounded-sm bg-sunk"
    >
      {picture ? (
        <img src={linkTo(picture)} alt="" loading="lazy" decoding="async" className="h-full w-full object-cover" />
      ) : (
        item && (
          <span className="px-2 text-center text-sm wrap-anywhere text-soft">
            {item.title}
            <br />
            {item.file?.place ? (item.file.mime.startsWith('video/') ? 'film' : 'file') : 'not in the package'}
          </span>
        )
      )}
      {item && item.standing !== 'kept' && (
        <span className="absolute right-1 bottom-1 rounded-full bg-paper p-1 leading-none">
          <StandingMark standing={item.standing} />
        </span>
      )}
    </a>
  )
}
