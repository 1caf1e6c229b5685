import type { Definition } from '../definition.js'

export const eventsDefinition = {
  id: 'events',
  label: 'Calendar',
  formats: ['icalendar', 'csv'],
  group: 'plans',
  nature: 'rows',
  columns: ['endsAt', 'calendar', 'location', 'allDay'],
} as const satisfies Definition

export const remindersDefinition = {
  id: 'reminders',
  label: 'Reminders',
  formats: ['icalendar', 'csv'],
  group: 'plans',
  nature: 'rows',
  columns: ['list', 'dueAt', 'completedAt'],
} as const satisfies Definition
