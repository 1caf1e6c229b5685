import ICAL from 'ical.js'
import { dayAfter, isTimeZone } from '../io/time-zone.js'
import { type Fields, linesOf, oneLine, recordsOf, textOf } from './fields.js'
import type { HandoverItem } from './format.js'
import { zoneComponent, zonedTime } from './icalendar-zone.js'
import { SingleFileWriter } from './single-file.js'

/**
 * Events and reminders as iCalendar (RFC 5545), all in one file. An event that was made in a zone is in that zone, so that one
 * which repeats stays at its hour when clocks change; all other times are in UTC.
 */
export class IcalendarWriter extends SingleFileWriter {
  protected readonly ending = 'ics'
  readonly #zones = new Set<string>()

  protected head(): string {
    return 'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Lumbrin//Handover 0.1//EN\r\n'
  }

  protected foot(): string {
    return 'END:VCALENDAR\r\n'
  }

  protected item({ sighting }: HandoverItem): string {
    const { fields, title, origin } = sighting
    const name = sighting.category === 'events' ? 'vevent' : 'vtodo'
    const component = new ICAL.Component(name)
    component.addPropertyWithValue(
      'uid',
      textOf(fields, 'uuid') ?? `${origin.table}-${origin.rowid ?? origin.offset}@lumbrin`,
    )
    component.addPropertyWithValue('dtstamp', time(sighting.when ?? '1970-01-01T00:00:00.000Z') as never)
    component.addPropertyWithValue('summary', textOf(fields, 'summary') ?? oneLine(title))
    const notes = linesOf(fields, 'notes')
    if (notes) component.addPropertyWithValue('description', notes)
    const zone = textOf(fields, 'timeZone')
    const inZone = zone !== null && zone !== 'UTC' && fields.allDay !== true && isTimeZone(zone) ? zone : null
    if (name === 'vevent') addEvent(component, fields, inZone)
    else addReminder(component, fields)
    return `${this.#definitionOf(name === 'vevent' ? inZone : null)}${component.toString()}\r\n`
  }

  /** A zone stands in the file before the first event that is in it. */
  #definitionOf(zone: string | null): string {
    if (zone === null || this.#zones.has(zone)) return ''
    this.#zones.add(zone)
    return `${zoneComponent(zone).toString()}\r\n`
  }
}

/** A moment in UTC, or a plain date. */
function time(text: string): ICAL.Time {
  if (/^\d{4}-\d\d-\d\d$/.test(text)) return ICAL.Time.fromDateString(text)
  return ICAL.Time.fromJSDate(new Date(text), true)
}

function addEvent(component: ICAL.Component, fields: Fields, zone: string | null): void {
  const starts = textOf(fields, 'startsAt')
  const ends = textOf(fields, 'endsAt')
  if (starts) addTime(component, 'dtstart', starts, zone)
  if (ends) addTime(component, 'dtend', fields.allDay === true ? dayAfter(ends) : ends, zone)
  for (const [name, field] of [
    ['location', 'location'],
    ['url', 'url'],
    ['categories', 'calendar'],
  ] as const) {
    const value = textOf(fields, field)
    if (value) component.addPropertyWithValue(name, value)
  }
  for (const repeat of recordsOf(fields.repeats)) addRepetition(component, repeat)
  for (const alarm of recordsOf(fields.alarms)) addAlarm(component, alarm)
}

/** The end of an all-day event is the day behind its last one (RFC 5545, section 3.6.1). */

function addTime(component: ICAL.Component, name: string, text: string, zone: string | null): void {
  if (zone === null) return void component.addPropertyWithValue(name, time(text) as never)
  const property = new ICAL.Property(name, component)
  property.setValue(zonedTime(text, zone))
  property.setParameter('tzid', zone)
  component.addProperty(property)
}

// RFC 5545, section 3.3.10.
const FREQUENCIES = ['SECONDLY', 'MINUTELY', 'HOURLY', 'DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY']

function addRepetition(component: ICAL.Component, repeat: Fields): void {
  const frequency = textOf(repeat, 'frequency')?.toUpperCase()
  if (!frequency || !FREQUENCIES.includes(frequency)) return
  const until = textOf(repeat, 'until')
  const parts = {
    freq: frequency,
    ...(typeof repeat.interval === 'number' && repeat.interval > 1 ? { interval: repeat.interval } : {}),
    ...(typeof repeat.count === 'number' ? { count: repeat.count } : until ? { until: time(until) } : {}),
  }
  component.addPropertyWithValue('rrule', new ICAL.Recur(parts as never) as never)
}

function addAlarm(component: ICAL.Component, alarm: Fields): void {
  if (typeof alarm.secondsBefore !== 'number') return
  const inner = new ICAL.Component('valarm')
  inner.addPropertyWithValue('action', 'DISPLAY')
  inner.addPropertyWithValue('description', 'Reminder')
  inner.addPropertyWithValue('trigger', ICAL.Duration.fromSeconds(-alarm.secondsBefore) as never)
  component.addSubcomponent(inner)
}

function addReminder(component: ICAL.Component, fields: Fields): void {
  for (const [name, field] of [
    ['due', 'dueAt'],
    ['completed', 'completedAt'],
    ['created', 'createdAt'],
  ] as const) {
    const at = textOf(fields, field)
    if (at) component.addPropertyWithValue(name, time(at) as never)
  }
  component.addPropertyWithValue('status', textOf(fields, 'completedAt') ? 'COMPLETED' : 'NEEDS-ACTION')
  const group = textOf(fields, 'list')
  if (group) component.addPropertyWithValue('categories', group)
}
