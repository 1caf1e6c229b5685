import { describe, expect, it } from 'vitest'
import { itemDay, itemIso, itemTime } from './item-time.js'

const AT = '2026-11-14T23:30:00.000Z'

describe('the time of an item in a zone', () => {
  it.each([
    [{}, '2026-11-15 00:30', '2026-11-15', '2026-11-15T00:30:00+01:00'],
    // A camera's clock: nobody knows where it stood, so that no zone makes it another time.
    [{ zoneKnown: false }, '2026-11-14 23:30', '2026-11-14', '2026-11-14T23:30:00'],
    [{ zoneKnown: true }, '2026-11-15 00:30', '2026-11-15', '2026-11-15T00:30:00+01:00'],
    // A day is the same day everywhere.
    [{ allDay: true }, '2026-11-14', '2026-11-14', '2026-11-14'],
  ])('with %j', (fields, time, day, iso) => {
    const item = { when: AT, fields }
    expect([itemTime(item, 'Europe/Vienna'), itemDay(item, 'Europe/Vienna'), itemIso(item, 'Europe/Vienna')]).toEqual([
      time,
      day,
      iso,
    ])
  })

  it('is nothing where the item has none', () => {
    const item = { when: null, fields: {} }
    expect([itemTime(item, 'UTC'), itemDay(item, 'UTC'), itemIso(item, 'UTC')]).toEqual([null, null, null])
  })
})
