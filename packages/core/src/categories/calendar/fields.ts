import { z } from 'zod'
import { flag, moment, momentOrDay, number, text } from '../field-values.js'

const repetition = z.strictObject({ frequency: text, interval: number, count: number, until: momentOrDay })
const alarm = z.strictObject({ at: moment, secondsBefore: number })

export const eventFields = z.strictObject({
  summary: text,
  /** Of events that take whole days: a date. */
  startsAt: momentOrDay,
  endsAt: momentOrDay,
  allDay: flag,
  timeZone: text,
  calendar: text,
  location: text,
  notes: text,
  url: text,
  repeats: z.array(repetition),
  alarms: z.array(alarm),
  uuid: text,
})

export const reminderFields = z.strictObject({
  title: text,
  dueAt: moment,
  completedAt: moment,
  createdAt: moment,
  list: text,
  notes: text,
  flagged: flag,
  uuid: text,
})
