import { TZDate } from '@date-fns/tz'
import type { Json } from '@lumbrin/core/categories/types'
import { DAY_MS } from '@lumbrin/core/findings/bin-days'
import { isTimeZone, minuteIn } from '@lumbrin/core/io/time-zone'
import { format } from 'date-fns'
import { useTimes } from '../../components/times'
import type { FindingLine } from '../../domain/finding'
import { zonePlace } from '../../domain/format'

const HOURS = 24

/** An event as its calendar would show it: the day, the hours that it takes of it, and what repeats and reminds. */
export function EventCard({ line }: { line: FindingLine }) {
  const { startsAt, endsAt, allDay, timeZone, location, notes, repeats, alarms } = line.fields
  const start = timeOf(startsAt)
  const end = timeOf(endsAt)
  const { zone: ofJob } = useTimes()
  const zone = typeof timeZone === 'string' && isTimeZone(timeZone) ? timeZone : ofJob
  const facts = [
    typeof location === 'string' && location,
    ...listOf(repeats).map(repetitionWords),
    ...listOf(alarms).map((alarm) => alarmWords(alarm, zone)),
  ].filter((fact) => typeof fact === 'string' && fact !== '')
  return (
    <section aria-label="Event" className="private mt-4 flex gap-4">
      {start && <DayTile day={start} zone={allDay === true ? 'UTC' : zone} />}
      <div className="min-w-0 flex-1">
        <p>
          {allDay === true
            ? 'The whole day'
            : start
              ? `${span(start, end, zone)} ${zoneWords(zone)}`
              : 'Its time is lost'}
        </p>
        {start && allDay !== true && <HoursStrip start={start} end={end} zone={zone} />}
        {[...new Set(facts)].map((fact) => (
          <p key={String(fact)} dir="auto" className="break-words text-soft">
            {fact}
          </p>
        ))}
        {typeof notes === 'string' && (
          <p dir="auto" className="mt-2 break-words whitespace-pre-wrap">
            {notes}
          </p>
        )}
      </div>
    </section>
  )
}

function DayTile({ day, zone }: { day: Date; zone: string }) {
  const local = new TZDate(day, zone)
  return (
    <div className="w-18 shrink-0 rounded border border-rule py-1 text-center">
      <span className="block text-sm text-soft">{format(local, 'MMM yyyy')}</span>
      <span className="block text-2xl leading-tight font-semibold">{format(local, 'd')}</span>
      <span className="block text-sm text-soft">{format(local, 'EEE')}</span>
    </div>
  )
}

/** The day from midnight to midnight, and what the event takes of it. */
function HoursStrip({ start, end, zone }: { start: Date; end: Date | null; zone: string }) {
  const from = hourOf(start, zone)
  const length = Math.max(0.25, Math.min(HOURS - from, end ? (end.getTime() - start.getTime()) / (DAY_MS / HOURS) : 0))
  return (
    <svg viewBox={`0 0 ${HOURS} 3`} className="my-1 h-5 w-full" preserveAspectRatio="none" aria-hidden="true">
      <rect x={0} y={1} width={HOURS} height={1} fill="var(--sunk)" />
      {[6, 12, 18].map((hour) => (
        <rect key={hour} x={hour} y={0.5} width={0.05} height={2} fill="var(--rule)" />
      ))}
      <rect x={from} y={0.5} width={length} height={2} fill="var(--accent)" />
    </svg>
  )
}

const timeOf = (value: Json | undefined): Date | null => {
  const date = typeof value === 'string' ? new Date(value) : null
  return date && !Number.isNaN(date.getTime()) ? date : null
}

const clock = (date: Date, zone: string) => format(new TZDate(date, zone), 'HH:mm')
function hourOf(date: Date, zone: string): number {
  const local = new TZDate(date, zone)
  return local.getHours() + local.getMinutes() / 60
}
const span = (start: Date, end: Date | null, zone: string) =>
  end ? `${clock(start, zone)} – ${clock(end, zone)}` : clock(start, zone)
const zoneWords = (zone: string) => (zone === 'UTC' ? 'UTC' : `in ${zonePlace(zone)}`)

type Fields = Record<string, Json>
const listOf = (value: Json | undefined): Fields[] =>
  (Array.isArray(value) ? value : []).filter((one): one is Fields => typeof one === 'object' && one !== null)

/** How often an event comes again, in words. */
export function repetitionWords({ frequency, interval, count, until }: Fields): string {
  const every = Number(interval) > 1 ? `, every ${interval}` : ''
  const end = count ? `, ${count} times` : typeof until === 'string' ? `, until ${until.slice(0, 10)}` : ''
  return `repeats ${typeof frequency === 'string' ? frequency : 'in a way that is not known'}${every}${end}`
}

/** When an event reminds, in words; by the clocks of its zone. */
export function alarmWords({ secondsBefore, at }: Fields, zone: string): string {
  if (typeof at === 'string') return `reminds at ${minuteIn(new Date(at), zone)}`
  const minutes = Math.round(Number(secondsBefore) / 60)
  if (!Number.isFinite(minutes) || secondsBefore === null) return ''
  if (minutes === 0) return 'reminds at its start'
  const [size, unit] = minutes % 1440 === 0 ? [1440, 'day'] : minutes % 60 === 0 ? [60, 'hour'] : [1, 'minute']
  const amount = Math.abs(minutes) / Number(size)
  return `reminds ${amount} ${unit}${amount === 1 ? '' : 's'} ${minutes > 0 ? 'before' : 'after its start'}`
}
