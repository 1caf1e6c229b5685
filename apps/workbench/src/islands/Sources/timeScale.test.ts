import { describe, expect, it } from 'vitest'
import { timeScale } from './timeScale'

const day = (text: string) => Date.parse(text)

describe('the time axis', () => {
  it('keeps the order, from edge to edge, and recent dates apart from each other', () => {
    const dates = [day('2015-08-30'), day('2026-10-05'), day('2026-10-20'), day('2026-11-14')]
    const at = timeScale(dates, 1000)
    const places = dates.map(at)
    expect(places[0]).toBe(0)
    expect(places.at(-1)).toBe(1000)
    for (let i = 1; i < places.length; i++)
      expect((places[i] as number) - (places[i - 1] as number)).toBeGreaterThan(100)
  })

  it('has a place for one date, for none, and for what lies outside', () => {
    expect(timeScale([day('2026-01-01')], 500)(day('2026-01-01'))).toBe(500)
    expect(timeScale([], 500)(0)).toBe(0)
    expect(timeScale([day('2026-01-01'), day('2026-02-01')], 500)(day('2030-01-01'))).toBe(500)
  })
})
