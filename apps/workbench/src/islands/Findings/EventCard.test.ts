import { describe, expect, it } from 'vitest'
import { alarmWords, repetitionWords } from './EventCard.js'

describe('an event in words', () => {
  it.each([
    [{ secondsBefore: 1800, at: null }, 'reminds 30 minutes before'],
    [{ secondsBefore: 3600, at: null }, 'reminds 1 hour before'],
    [{ secondsBefore: 172_800, at: null }, 'reminds 2 days before'],
    [{ secondsBefore: 0, at: null }, 'reminds at its start'],
    [{ secondsBefore: -600, at: null }, 'reminds 10 minutes after its start'],
    [{ secondsBefore: null, at: '2026-11-02T08:30:00.000Z' }, 'reminds at 2026-11-02 09:30'],
    [{ secondsBefore: null, at: null }, ''],
  ])('%o', (alarm, words) => {
    expect(alarmWords(alarm, 'Europe/Vienna')).toBe(words)
  })

  it.each([
    [{ frequency: 'weekly', interval: 1, count: 6, until: null }, 'repeats weekly, 6 times'],
    [
      { frequency: 'daily', interval: 3, count: null, until: '2027-01-05T00:00:00.000Z' },
      'repeats daily, every 3, until 2027-01-05',
    ],
    [{ frequency: null, interval: 1, count: null, until: null }, 'repeats in a way that is not known'],
  ])('%o', (repetition, words) => {
    expect(repetitionWords(repetition)).toBe(words)
  })
})
