import { tzOffset, tzScan } from '@date-fns/tz'

// Zones are named as in the IANA time zone database (RFC 6557); their rules are those of the platform's Intl.

/** True for a zone that this platform knows by its IANA name, such as `Europe/Lisbon`, and for `UTC`. */
export const isTimeZone = (name: string): boolean =>
  // Offsets such as "+01:00" are taken by Intl as well, and name no place.
  /^[A-Za-z]/.test(name) && !Number.isNaN(tzOffset(name, new Date(0)))

const MINUTE_MS = 60_000

// Since Liberia's clocks were set in January 1972, no zone of the database has changed its offset amid a quarter of an hour.
const IN_QUARTERS_SINCE = Date.UTC(1973, 0, 1)
const QUARTER_MS = 15 * MINUTE_MS
const MOST_KNOWN = 20_000
const known = new Map<string, number>()

/** The offset of a zone from UTC, in minutes. To ask the platform costs more than all else that is done with a time. */
function offsetAt(zone: string, at: Date): number {
  if (zone === 'UTC') return 0
  // What is no moment gives no offset either.
  if (!(at.getTime() >= IN_QUARTERS_SINCE)) return tzOffset(zone, at)
  const key = `${zone} ${Math.floor(at.getTime() / QUARTER_MS)}`
  const remembered = known.get(key)
  if (remembered !== undefined) return remembered
  const offset = tzOffset(zone, at)
  if (known.size >= MOST_KNOWN) known.clear()
  known.set(key, offset)
  return offset
}

/** What the clocks of a zone show, as a Date whose UTC fields are theirs. */
const clockOf = (at: Date, zone: string): Date => new Date(at.getTime() + offsetAt(zone, at) * MINUTE_MS)

/** `2026-11-14 20:15` by the clocks of a zone. @throws RangeError: no such moment, or no such zone */
export const minuteIn = (at: Date, zone: string): string =>
  clockOf(at, zone).toISOString().slice(0, 16).replace('T', ' ')

/** `2026-11-14`, the day in a zone. @throws RangeError as above */
export const dayIn = (at: Date, zone: string): string => minuteIn(at, zone).slice(0, 10)

/** `2026-11-14T20:15:07+01:00`, the time in a zone with its offset (RFC 3339). @throws RangeError as above */
export function isoIn(at: Date, zone: string): string {
  if (zone === 'UTC') return at.toISOString()
  // Before zones were agreed on, clocks went by the sun, to the second; RFC 3339 knows minutes.
  const minutes = Math.trunc(offsetAt(zone, at))
  const clock = new Date(at.getTime() + minutes * MINUTE_MS).toISOString().slice(0, 19)
  return `${clock}${offsetText(minutes)}`
}

function offsetText(minutes: number): string {
  const size = Math.abs(minutes)
  const two = (value: number) => String(value).padStart(2, '0')
  return `${minutes < 0 ? '-' : '+'}${two(Math.trunc(size / 60))}:${two(size % 60)}`
}

/**
 * The moment at which a day such as `2026-11-14` begins in a zone. Where clocks skip midnight, the first moment after it.
 */
export function startOfDay(day: string, zone: string): Date {
  const midnight = Date.parse(day)
  // The offset is that of the moment sought, which is at most a day away from midnight UTC: the later of the two guesses
  // that a change of clocks leaves is right in a gap, the earlier where an hour comes twice.
  const guesses = [-1, 1].map((side) => midnight - tzOffset(zone, new Date(midnight + side * DAY_MS)) * MINUTE_MS)
  const fitting = guesses.filter((guess) => dayIn(new Date(guess), zone) === day)
  return new Date(fitting.length > 0 ? Math.min(...fitting) : Math.max(...guesses))
}

const DAY_MS = 86_400_000

/** The moment at which a day ends in a zone: the first of the next one. */
export const endOfDay = (day: string, zone: string): Date => startOfDay(dayAfter(day), zone)

/** The day after one such as `2026-11-14`. */
export const dayAfter = (day: string): string => new Date(Date.parse(day) + DAY_MS).toISOString().slice(0, 10)

/** Offsets of a zone over time: the first from ever on, each other one from `from` on; milliseconds and minutes. */
export interface ZoneOffset {
  from: number
  minutes: number
}

/** The offsets of a zone between two moments, in order. */
export function offsetsOf(zone: string, start: Date, end: Date): ZoneOffset[] {
  const changes = tzScan(zone, { start, end })
  return [
    { from: Number.NEGATIVE_INFINITY, minutes: tzOffset(zone, start) },
    ...changes.map(({ date, offset }) => ({ from: date.getTime(), minutes: offset })),
  ]
}
