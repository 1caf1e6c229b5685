import { execFileSync } from 'node:child_process'
import { describe, expect, it } from 'vitest'
import { dayIn, isoIn, isTimeZone, minuteIn, offsetsOf, startOfDay } from './time-zone.js'

describe('times of a zone', () => {
  it.each([
    // European Union, directive 2000/84/EC: summer time ends on the last Sunday in October at 01:00 UTC.
    ['2026-10-25T00:59:00Z', 'Europe/Lisbon', '2026-10-25T01:59:00+01:00'],
    ['2026-10-25T01:00:00Z', 'Europe/Lisbon', '2026-10-25T01:00:00+00:00'],
    // United States, Energy Policy Act of 2005: it begins on the second Sunday in March at 2 o'clock.
    ['2026-03-08T07:30:00Z', 'America/New_York', '2026-03-08T03:30:00-04:00'],
    ['2026-11-14T20:15:07Z', 'Asia/Kathmandu', '2026-11-15T02:00:07+05:45'],
    ['2026-11-14T20:15:07Z', 'UTC', '2026-11-14T20:15:07.000Z'],
  ])('%s in %s is %s', (at, zone, local) => {
    expect(isoIn(new Date(at), zone)).toBe(local)
    expect(minuteIn(new Date(at), zone)).toBe(local.slice(0, 16).replace('T', ' '))
    expect(dayIn(new Date(at), zone)).toBe(local.slice(0, 10))
  })

  it('are those of date(1) with the zone database of the system', () => {
    const zones = ['Europe/Lisbon', 'America/New_York', 'Asia/Kathmandu', 'Australia/Lord_Howe', 'Pacific/Apia']
    for (const zone of zones)
      for (let month = 0; month < 36; month += 5) {
        const at = new Date(Date.UTC(2024, month, 1 + month, month % 24, 20))
        const seconds = String(at.getTime() / 1000)
        const said = execFileSync('date', ['-d', `@${seconds}`, '+%Y-%m-%dT%H:%M:%S%:z'], { env: { TZ: zone } })
        expect(isoIn(at, zone)).toBe(said.toString().trim())
      }
  })

  it('a day begins when its first moment comes, whatever clocks do', () => {
    const zones = ['Europe/Lisbon', 'America/Sao_Paulo', 'Africa/Cairo', 'Pacific/Apia', 'Asia/Beirut', 'UTC']
    for (const zone of zones)
      for (let i = 0; i < 365 * 3; i++) {
        const day = new Date(Date.UTC(2010, 0, 1 + i)).toISOString().slice(0, 10)
        const start = startOfDay(day, zone)
        // Samoa left the 30th of December 2011 out: it has no moment, and the next day begins there.
        if (zone === 'Pacific/Apia' && day === '2011-12-30') expect(dayIn(start, zone)).toBe('2011-12-31')
        else expect(dayIn(start, zone)).toBe(day)
        expect(dayIn(new Date(start.getTime() - 1), zone) < day).toBe(true)
      }
  })

  it('knows zones by their names only', () => {
    expect(['Europe/Lisbon', 'UTC', 'America/Argentina/Ushuaia'].map(isTimeZone)).toEqual([true, true, true])
    expect(['Europe/Nowhere', '', '+01:00', '01:00', "UTC'; --"].map(isTimeZone)).toEqual([
      false,
      false,
      false,
      false,
      false,
    ])
  })

  it('lists the offsets of a zone in order', () => {
    const [first, ...rest] = offsetsOf('Europe/Lisbon', new Date('2026-01-01'), new Date('2027-01-01'))
    expect(first).toEqual({ from: Number.NEGATIVE_INFINITY, minutes: 0 })
    expect(rest).toEqual([
      { from: Date.parse('2026-03-29T01:00:00Z'), minutes: 60 },
      { from: Date.parse('2026-10-25T01:00:00Z'), minutes: 0 },
    ])
    expect(offsetsOf('UTC', new Date(0), new Date())).toHaveLength(1)
  })
})
