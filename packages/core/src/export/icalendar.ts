import ICAL from 'ical.js'
import { dayAfter } from '../io/time-zone.js'
import { type Fields, linesOf, oneLine, recordsOf, textOf } from './fields.js'
import type { HandoverItem } from './format.js'
import { SingleFileWriter } from './single-file.js'

/** Events and reminders as iCalendar (RFC 5545), all in one file; times in UTC. */
export class IcalendarWriter extends SingleFileWriter {
  protected readonly ending = 'ics'

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
    if (name === 'vevent') addEvent(component, fields)
    else addReminder(component, fields)
    return `${component.toString()}\r\n`
  }
}

/** A moment in UTC, or a plain date. */
function time(text: string): ICAL.Time {
  if (/^\d{4}-\d\d-\d\d$/.test(text)) return ICAL.Time.fromDateString(text)
  return ICAL.Time.fromJSDate(new Date(text), true)
}

function addEvent(component: ICAL.Component, fields: Fields): void {
  const starts = textOf(fields, 'startsAt')
  const ends = textOf(fields, 'endsAt')
  if (starts) component.addPropertyWithValue('dtstart', time(starts) as never)
  if (ends) component.addPropertyWithValue('dtend', time(fields.allDay === true ? dayAfter(ends) : ends) as never)
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
