import { describe, expect, it } from 'vitest'
import { addMonths, monthGrid, monthName } from './months.js'

describe('the grid of a month', () => {
  // ISO 8601: weeks begin on Monday. 1 May 2026 is a Friday, 1 February 2027 a Monday.
  it('begins on Monday and holds every day once', () => {
    const { weeks } = monthGrid('2026-05')
    expect(weeks[0]).toEqual([undefined, undefined, undefined, undefined, '2026-05-01', '2026-05-02', '2026-05-03'])
    expect(weeks.flat().filter(Boolean).length).toBe(31)
    expect(monthGrid('2027-02').weeks.length).toBe(4)
    expect(monthGrid('2024-02').weeks.flat().filter(Boolean).at(-1)).toBe('2024-02-29')
  })

  it('turns over the end of a year', () => {
    expect(addMonths('2026-12', 1)).toBe('2027-01')
    expect(addMonths('2026-01', -13)).toBe('2024-12')
    expect(monthName('2026-11')).toBe('November 2026')
  })
})
