import type { Json } from '../categories/types.js'
import { dayIn, isoIn, minuteIn } from '../io/time-zone.js'

/** An item as far as its time goes. */
export interface TimedItem {
  /** ISO 8601 in UTC; null: it has no date. */
  when: string | null
  fields: { [key: string]: Json }
}

/** A camera's clock whose zone nobody knows shows the same everywhere: it is kept as if it were UTC. */
const isLocal = ({ fields }: TimedItem): boolean => fields.zoneKnown === false

/** A day, such as that of an event that lasts all of it, is the same day everywhere. */
const isDay = ({ fields }: TimedItem): boolean => fields.allDay === true

/** The time of an item by the clocks of a zone: `2026-11-14 20:15`; of what is a day, `2026-11-14`. Null: it has no date. */
export function itemTime(item: TimedItem, zone: string): string | null {
  if (item.when === null) return null
  const at = new Date(item.when)
  return isDay(item) ? dayIn(at, 'UTC') : minuteIn(at, isLocal(item) ? 'UTC' : zone)
}

/** The day on which an item's time lies in a zone: `2026-11-14`. Null: it has no date. */
export const itemDay = (item: TimedItem, zone: string): string | null => itemTime(item, zone)?.slice(0, 10) ?? null

/** The same for programs (ISO 8601): with the zone's offset, without one where the zone is not known, or as a plain day. */
export function itemIso(item: TimedItem, zone: string): string | null {
  if (item.when === null) return null
  const at = new Date(item.when)
  if (isDay(item)) return dayIn(at, 'UTC')
  return isLocal(item) ? at.toISOString().slice(0, 19) : isoIn(at, zone)
}
