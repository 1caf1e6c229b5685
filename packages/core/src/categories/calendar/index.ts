import { fromCocoa } from '../../io/time.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'
import { keyedBy, ownId } from '../keys.js'
import { firstValue, type Mapped, rowCategory, type StoreRows } from '../rows.js'
import type { Json } from '../types.js'
import { eventsDefinition, remindersDefinition } from './definition.js'
import { eventFields, reminderFields } from './fields.js'

const CALENDAR = { domain: 'HomeDomain', path: 'Library/Calendar/Calendar.sqlitedb' }
const EVENT = 2
const REMINDER = 3

/** Events of the calendar, with their repetitions and alarms. */
export const events = rowCategory({
  ...eventsDefinition,
  fields: eventFields,
  stores: [CALENDAR],
  tables: ['CalendarItem'],
  map: (row, rows) => ((numberValue(row.values.entity_type) ?? EVENT) === EVENT ? event(row, rows) : undefined),
  ...keyedBy(
    ({ fields }) => ownId('uid', fields.uuid),
    ({ fields, when, title }) => (when ? `event:${when}:${title}:${fields.endsAt}` : null),
  ),
})

function event(row: Row, rows: StoreRows): Mapped {
  const { values } = row
  const id = numberValue(row.rowid)
  const allDay = numberValue(values.all_day) === 1
  const starts = fromCocoa(values.start_date)
  const ends = fromCocoa(values.end_date)
  const summary = textValue(values.summary)
  const location = rows.byId('Location', numberValue(values.location_id))
  const calendar = rows.byId('Calendar', numberValue(values.calendar_id))
  return {
    when: starts && allDay ? noonOf(starts) : starts,
    title: summary ?? 'Without a title',
    text: textValue(values.description),
    fields: {
      summary,
      startsAt: timeText(starts, allDay),
      endsAt: timeText(ends, allDay),
      allDay,
      timeZone: allDay ? null : textValue(values.start_tz),
      calendar: textValue(calendar?.values.title),
      location: textValue(location?.values.title) ?? textValue(location?.values.address),
      notes: textValue(values.description),
      url: textValue(values.url),
      repeats: id === null ? [] : rows.having('Recurrence', 'owner_id', id).map(repetition),
      alarms: id === null ? [] : rows.having('Alarm', 'calendaritem_owner_id', id).map(alarm),
      uuid: textValue(firstValue(row, 'UUID', 'unique_identifier')),
    },
    whole: summary !== null && starts !== null,
  }
}

/** A day has no moment of its own. Noon of UTC lies on it in nearly every zone, so that lists by days are right. */
function noonOf(day: Date): Date {
  const noon = new Date(day)
  noon.setUTCHours(12, 0, 0, 0)
  return noon
}

/** Events of a whole day are plain dates: they have no zone. */
const timeText = (date: Date | null, allDay: boolean): string | null =>
  allDay ? (date?.toISOString().slice(0, 10) ?? null) : (date?.toISOString() ?? null)

const FREQUENCIES: Record<number, string> = { 1: 'daily', 2: 'weekly', 3: 'monthly', 4: 'yearly' }

const repetition = ({ values }: Row): Json => ({
  frequency: FREQUENCIES[numberValue(values.frequency) ?? 0] ?? null,
  interval: numberValue(values.interval) ?? 1,
  count: numberValue(values.count) || null,
  until: fromCocoa(values.end_date)?.toISOString() ?? null,
})

const alarm = ({ values }: Row): Json => ({
  secondsBefore: values.trigger_interval === null ? null : -(numberValue(values.trigger_interval) ?? 0),
  at: fromCocoa(values.trigger_date)?.toISOString() ?? null,
})

/** Reminders: a store of their own since version 13, before that in the calendar's. */
export const reminders = rowCategory({
  ...remindersDefinition,
  fields: reminderFields,
  stores: [{ domain: 'AppDomainGroup-group.com.apple.reminders', path: 'Container_v1/Stores/Data-*.sqlite' }, CALENDAR],
  tables: ['ZREMCDREMINDER', 'ZREMCDOBJECT', 'CalendarItem'],
  map: (row, rows) => (row.table === 'CalendarItem' ? legacyReminder(row, rows) : reminder(row, rows)),
  ...keyedBy(
    ({ fields }) => ownId('id', fields.uuid),
    ({ fields, when, title }) => (fields.title ? `reminder:${when}:${title}` : null),
  ),
})

function reminder(row: Row, rows: StoreRows): Mapped | undefined {
  const title = textValue(firstValue(row, 'ZTITLE', 'ZTITLE1'))
  // The older table holds lists and other things beside reminders, none of which has a title of this kind.
  if (row.table === 'ZREMCDOBJECT' && title === null) return undefined
  const listId = numberValue(row.values.ZLIST)
  const list = rows.byId('ZREMCDBASELIST', listId) ?? rows.byId('ZREMCDOBJECT', listId)
  return {
    ...reminderParts(row, {
      title,
      due: fromCocoa(row.values.ZDUEDATE),
      completed: fromCocoa(row.values.ZCOMPLETIONDATE),
      created: fromCocoa(row.values.ZCREATIONDATE),
      list: textValue(firstValue(list, 'ZNAME', 'ZNAME1')),
      notes: textValue(firstValue(row, 'ZNOTES', 'ZNOTES1')),
      flagged: numberValue(row.values.ZFLAGGED) === 1,
      uuid: textValue(row.values.ZCKIDENTIFIER),
    }),
    gone: numberValue(row.values.ZMARKEDFORDELETION) === 1,
  }
}

function legacyReminder(row: Row, rows: StoreRows): Mapped | undefined {
  if (numberValue(row.values.entity_type) !== REMINDER) return undefined
  const { values } = row
  return reminderParts(row, {
    title: textValue(values.summary),
    due: fromCocoa(values.due_date),
    completed: fromCocoa(values.completion_date),
    created: fromCocoa(values.creation_date),
    list: textValue(rows.byId('Calendar', numberValue(values.calendar_id))?.values.title),
    notes: textValue(values.description),
    flagged: false,
    uuid: textValue(firstValue(row, 'UUID', 'unique_identifier')),
  })
}

interface ReminderParts {
  title: string | null
  due: Date | null
  completed: Date | null
  created: Date | null
  list: string | null
  notes: string | null
  flagged: boolean
  uuid: string | null
}

const reminderParts = (
  row: Row,
  { title, due, completed, created, list, notes, flagged, uuid }: ReminderParts,
): Mapped => ({
  when: due ?? created,
  title: title ?? 'Without a title',
  text: notes,
  fields: {
    title,
    dueAt: due?.toISOString() ?? null,
    completedAt: completed?.toISOString() ?? null,
    createdAt: created?.toISOString() ?? null,
    list,
    notes,
    flagged,
    uuid,
  },
  whole: title !== null && row.missing.length <= 2,
})
