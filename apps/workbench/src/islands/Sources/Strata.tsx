import { DAY_MS } from '@lumbrin/core/findings/bin-days'
import type { JobDevice } from '@lumbrin/core/findings/devices'
import { endOfDay, startOfDay } from '@lumbrin/core/io/time-zone'
import { useState } from 'react'
import { useTimes } from '../../components/times'
import { plural } from '../../domain/format'
import { sourceName } from '../../domain/labels'
import { type Loss, stance } from '../../domain/loss'
import type { SharedWindow, Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import { ROLE_WORDS } from './Devices'
import { timeScale } from './timeScale'

const WIDTH = 860
const LEFT = 190
const RIGHT = 30
const TICK_ROOM = 74
const WINDOW_ROOM = 16
// The most frequent windows; more lines would say less.
const MOST_WINDOWS = 4

interface Props {
  sources: Wire<Source>[]
  devices: readonly JobDevice[]
  loss: Loss
  /** When the findings of the tray went. */
  windows: SharedWindow[]
  /** Sources chosen for a comparison. */
  chosen: number[]
  choose: (id: number) => void
}

/**
 * All sources of a job on one time axis: each a stratum that reaches up to the day whose state it shows. The loss is
 * shaded; strata that end before it may still hold what is gone.
 */
export function Strata({ sources, devices, loss, windows, chosen, choose }: Props) {
  const { zone } = useTimes()
  const [now] = useState(() => Date.now())
  const dated = sources.flatMap((source) => (source.takenAt ? [{ source, at: Date.parse(source.takenAt) }] : []))
  const undated = sources.length - dated.length
  if (dated.length === 0) return null
  const rowHeight = dated.length > 16 ? 15 : 26
  const { strata, heads, end } = layOut(dated, devices, rowHeight)
  const drawn = windows.slice(0, MOST_WINDOWS)
  const bottom = end + 2
  const height = bottom + drawn.length * WINDOW_ROOM + 26
  const from = loss.from ? startOfDay(loss.from, zone).getTime() : null
  const to = loss.to ? endOfDay(loss.to, zone).getTime() - 1 : null
  const dates = [...strata.map(({ at }) => at), ...[from, to].filter((at) => at !== null), now]
  const earliest = Math.min(...dates)
  const x = timeScale([earliest - 30 * DAY_MS, ...dates], WIDTH - LEFT - RIGHT)
  const at = (time: number) => LEFT + x(time)
  return (
    <figure aria-label="Strata: the sources on one time axis">
      <svg viewBox={`0 0 ${WIDTH} ${height}`} className="w-full">
        <title>Sources by date</title>
        {(from !== null || to !== null) && (
          <LossBand left={from === null ? LEFT : at(from)} right={to === null ? at(now) : at(to)} height={bottom - 4} />
        )}
        {heads.map(({ device, y }) => (
          <text key={device.key} x={4} y={y} className="fill-soft text-[11px] font-semibold">
            {`${device.name}: ${ROLE_WORDS[device.role]}`}
          </text>
        ))}
        {strata.map(({ source, at: takenAt, y }) => (
          <Stratum
            key={source.id}
            source={source}
            y={y}
            height={rowHeight - 4}
            end={at(takenAt)}
            before={from !== null && takenAt < from}
            stance={stance(source.takenAt, loss, zone)}
            chosen={chosen.includes(source.id)}
            choose={() => choose(source.id)}
          />
        ))}
        {drawn.map((window, i) => (
          <Window
            key={`${window.from} ${window.to}`}
            window={window}
            y={bottom + i * WINDOW_ROOM + 6}
            left={window.from === null ? LEFT : at(window.from)}
            right={window.to === null ? at(now) : at(window.to)}
          />
        ))}
        <Axis dates={dates} at={at} y={height - 24} now={now} />
      </svg>
      <figcaption className="text-sm text-soft">
        Each stratum ends on the day whose state it shows; long stretches without a date are folded together.
        {undated > 0 && ` ${undated} without a date are not drawn.`} Choose two to see what a restore would bring and
        wipe.
      </figcaption>
    </figure>
  )
}

const HEAD_ROOM = 20

/** The sources of one device stand together, the newest first, that of the brief above; where there are several, each has a head. */
function layOut<T extends { source: Wire<Source>; at: number }>(
  dated: readonly T[],
  devices: readonly JobDevice[],
  rowHeight: number,
): { strata: (T & { y: number })[]; heads: { device: JobDevice; y: number }[]; end: number } {
  const strata: (T & { y: number })[] = []
  const heads: { device: JobDevice; y: number }[] = []
  const shown = devices.filter(({ sourceIds }) => dated.some(({ source }) => sourceIds.includes(source.id)))
  let y = 18
  for (const device of shown) {
    if (shown.length > 1) {
      heads.push({ device, y: y + 12 })
      y += HEAD_ROOM
    }
    for (const one of dated.filter(({ source }) => device.sourceIds.includes(source.id)).sort((a, b) => b.at - a.at)) {
      strata.push({ ...one, y })
      y += rowHeight
    }
  }
  return { strata, heads, end: y }
}

function LossBand({ left, right, height }: { left: number; right: number; height: number }) {
  return (
    <g>
      <rect x={left} y={4} width={Math.max(2, right - left)} height={height} className="fill-partial/15" />
      <text x={(left + right) / 2} y={14} textAnchor="middle" className="fill-partial text-[11px] font-semibold">
        the loss
      </text>
    </g>
  )
}

/** When some findings of the tray went, as a bracket under the strata. */
function Window({ window, y, left, right }: { window: SharedWindow; y: number; left: number; right: number }) {
  return (
    <g>
      <text x={LEFT - 10} y={y + 4} textAnchor="end" className="fill-rebuilt text-[11px]">
        {`${plural(window.count, 'item')} of the tray lost`}
      </text>
      <path
        d={`M${left},${y - 4}v8M${left},${y}H${right}M${right},${y - 4}v8`}
        className="fill-none stroke-rebuilt stroke-2"
      />
    </g>
  )
}

interface StratumProps {
  source: Wire<Source>
  y: number
  height: number
  end: number
  before: boolean
  stance: string
  chosen: boolean
  choose: () => void
}

function Stratum({ source, y, height, end, before, stance: words, chosen, choose }: StratumProps) {
  const { day } = useTimes()
  const name = sourceName(source.info)
  const font = height < 16 ? 'text-[9px]' : 'text-[12px]'
  return (
    // biome-ignore lint/a11y/useSemanticElements: a drawn stratum cannot be a button element
    <g
      role="button"
      tabIndex={0}
      aria-pressed={chosen}
      aria-label={`${name}, state of ${day(source.takenAt)}${words}`}
      className="group cursor-pointer outline-none"
      onClick={choose}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' && event.key !== ' ') return
        event.preventDefault()
        choose()
      }}
    >
      <rect
        x={0}
        y={y - 2}
        width={WIDTH}
        height={height + 4}
        className="fill-transparent group-focus-visible:fill-wash"
      />
      <text x={LEFT - 10} y={y + height / 2 + 4} textAnchor="end" className={`fill-ink ${font}`}>
        {name.length > 26 ? `${name.slice(0, 25)}…` : name}
        {source.info.encrypted ? ' (encrypted)' : ''}
      </text>
      <rect
        x={LEFT}
        y={y}
        width={Math.max(3, end - LEFT)}
        height={height}
        rx={2}
        className={`${before ? 'fill-accent/35' : 'fill-soft/25'} ${chosen ? 'stroke-accent stroke-2' : ''}`}
      />
      <rect x={end - 3} y={y - 1} width={3} height={height + 2} className={before ? 'fill-accent' : 'fill-soft'} />
      {chosen && (
        <text x={LEFT + 6} y={y + height / 2 + 4} className={`fill-ink font-semibold ${font}`}>
          chosen
        </text>
      )}
    </g>
  )
}

function Axis({ dates, at, y, now }: { dates: number[]; at: (time: number) => number; y: number; now: number }) {
  const { day } = useTimes()
  const shown: { time: number; place: number }[] = []
  // Newest first, since those matter most where there is no room for all.
  for (const time of [...new Set(dates)].sort((a, b) => b - a)) {
    const place = at(time)
    if (shown.every((other) => Math.abs(other.place - place) > TICK_ROOM)) shown.push({ time, place })
  }
  return (
    <g>
      <line x1={LEFT} x2={WIDTH - RIGHT} y1={y} y2={y} className="stroke-rule" />
      {shown.map(({ time, place }) => (
        <g key={time}>
          <line x1={place} x2={place} y1={y - 4} y2={y + 4} className="stroke-soft" />
          <text x={place} y={y + 16} textAnchor="middle" className="fill-soft text-[11px]">
            {time === now ? 'today' : day(new Date(time).toISOString())}
          </text>
        </g>
      ))}
    </g>
  )
}
