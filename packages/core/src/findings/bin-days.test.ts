import { describe, expect, it } from 'vitest'
import { binTime } from './bin-days.js'

describe('the days of a bin', () => {
  const now = new Date('2026-11-30T12:00:00Z')
  it.each([
    ['just now', '2026-11-30T12:00:00Z', { state: 'left', days: 30 }],
    ['an hour ago', '2026-11-30T11:00:00Z', { state: 'left', days: 30 }],
    ['a day ago', '2026-11-29T12:00:00Z', { state: 'left', days: 29 }],
    ['almost too long ago', '2026-10-31T12:00:01Z', { state: 'left', days: 1 }],
    ['thirty days ago', '2026-10-31T12:00:00Z', { state: 'expired', since: now }],
    ['long ago', '2026-01-01T00:00:00Z', { state: 'expired', since: new Date('2026-01-31T00:00:00Z') }],
  ])('of what was put there %s are counted to this moment', (_, at, expected) => {
    expect(binTime(new Date(at), now)).toEqual(expected)
  })

  it('are not told where nobody knows when it was put there', () => {
    expect(binTime(null, now)).toBeNull()
  })
})
