import ICAL from 'ical.js'
import { offsetsOf } from '../io/time-zone.js'

// Events that repeat go on beyond the last one that is stored; rules of zones that far ahead are guesses anyway.
const FIRST = new Date(Date.UTC(1970, 0, 1))
const LAST = new Date(Date.UTC(2038, 0, 1))
const MINUTE_MS = 60_000

/**
 * A zone as a component of a calendar (RFC 5545, section 3.6.5): each change of its clocks from 1970 to 2037 by itself, as the
 * zone database has them.
 */
export function zoneComponent(zone: string): ICAL.Component {
  const component = new ICAL.Component('vtimezone')
  component.addPropertyWithValue('tzid', zone)
  const offsets = offsetsOf(zone, FIRST, LAST)
  for (const [i, { from, minutes }] of offsets.entries()) {
    const before = offsets[i - 1]?.minutes ?? minutes
    const observance = new ICAL.Component(minutes > before ? 'daylight' : 'standard')
    // A change begins at what the clocks showed just before it.
    const start = Number.isFinite(from) ? from + before * MINUTE_MS : FIRST.getTime()
    observance.addPropertyWithValue('dtstart', localTime(new Date(start)) as never)
    observance.addPropertyWithValue('tzoffsetfrom', offset(before) as never)
    observance.addPropertyWithValue('tzoffsetto', offset(minutes) as never)
    component.addSubcomponent(observance)
  }
  return component
}

/** The UTC fields of a date as a time without a zone. */
const localTime = (at: Date): ICAL.Time => ICAL.Time.fromDateTimeString(at.toISOString().slice(0, 19))

function offset(minutes: number): ICAL.UtcOffset {
  const size = Math.abs(Math.trunc(minutes))
  return new ICAL.UtcOffset({ hours: Math.floor(size / 60), minutes: size % 60, factor: minutes < 0 ? -1 : 1 })
}

/** A moment by the clocks of a zone, as a time that names it. */
export function zonedTime(iso: string, zone: string): ICAL.Time {
  const at = new Date(iso)
  const [{ minutes } = { minutes: 0 }] = offsetsOf(zone, at, at)
  return localTime(new Date(at.getTime() + Math.trunc(minutes) * MINUTE_MS))
}
