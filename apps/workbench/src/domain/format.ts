import { dayIn, minuteIn } from '@lumbrin/core/io/time-zone'

export { formatBytes } from '@lumbrin/core/io/bytes'

/** Groups of three digits, the same on server and in the browser. */
export const formatCount = (count: number): string => String(count).replace(/\B(?=(\d{3})+$)/g, ',')

/** "2026-11-14 20:15" by the clocks of a zone (IANA). */
export const formatTime = (iso: string | null, zone: string): string =>
  iso ? minuteIn(new Date(iso), zone) : 'no date'

/** "2026-11-14", the day in a zone. */
export const formatDay = (iso: string | null, zone: string): string => (iso ? dayIn(new Date(iso), zone) : 'no date')

/** The place that a zone is named after: "Lisbon". */
export const zonePlace = (zone: string): string => (zone.split('/').at(-1) ?? zone).replaceAll('_', ' ')

/** "1 photo", "2 photos". */
export const plural = (count: number, one: string, many = `${one}s`): string =>
  `${formatCount(count)} ${count === 1 ? one : many}`

/** "40 seconds", "12 minutes", "3 hours": as exact as an estimate is. */
export function formatSeconds(seconds: number): string {
  if (seconds < 90) return plural(Math.max(1, Math.round(seconds)), 'second')
  if (seconds < 5400) return plural(Math.round(seconds / 60), 'minute')
  return plural(Math.round(seconds / 3600), 'hour')
}
