import { itemTime, type TimedItem } from '@lumbrin/core/findings/item-time'
import { createContext, useContext, useMemo } from 'react'
import { formatDay, formatTime } from '../domain/format'

const Zone = createContext('UTC')

/** By whose clocks an island shows times. */
export const ZoneProvider = Zone.Provider

/** What a page tells an island. */
export interface Zoned {
  /** By whose clocks times are shown (IANA). */
  zone: string
}

/** Times in words, by the clocks of the job's zone. */
export function useTimes() {
  const zone = useContext(Zone)
  return useMemo(
    () => ({
      zone,
      /** `2026-11-14 20:15`. */
      time: (iso: string | null) => formatTime(iso, zone),
      /** `2026-11-14`. */
      day: (iso: string | null) => formatDay(iso, zone),
      /** The time of an item; an event of a whole day, or a picture whose zone nobody knows, has the same everywhere. */
      ofItem: (item: TimedItem) => itemTime(item, zone) ?? 'no date',
    }),
    [zone],
  )
}

/** A moment by the clocks of the job's zone; its hint says it in UTC. */
export function Moment({ at }: { at: string | null }) {
  const { time, zone } = useTimes()
  return (
    <time dateTime={at ?? undefined} title={at === null ? undefined : hintOf(time(at), zone, formatTime(at, 'UTC'))}>
      {time(at)}
    </time>
  )
}

const hintOf = (local: string, zone: string, utc: string) =>
  zone === 'UTC' ? 'UTC' : `${local} in ${zone}, ${utc} UTC`

/** The time of an item; its hint says it in UTC. */
export function ItemTime({ item }: { item: TimedItem }) {
  const { ofItem, zone } = useTimes()
  const utc = itemTime(item, 'UTC')
  // What is the same everywhere has no zone to tell of.
  const hint = utc === null || ofItem(item) === utc ? undefined : hintOf(ofItem(item), zone, utc)
  return (
    <time dateTime={item.when ?? undefined} title={hint}>
      {ofItem(item)}
    </time>
  )
}
