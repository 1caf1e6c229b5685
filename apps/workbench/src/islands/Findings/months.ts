import {
  format,
  formatISO,
  getDaysInMonth,
  getISODay,
  addMonths as later,
  addDays as laterDay,
  parseISO,
} from 'date-fns'

/** The days of a month in weeks from Monday to Sunday. */
export interface MonthGrid {
  names: readonly string[]
  /** Days as 2026-05-31; undefined: days of other months. */
  weeks: (string | undefined)[][]
}

const NAMES = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']

/** The weeks of a month such as `2026-05`. */
export function monthGrid(month: string): MonthGrid {
  const first = parseISO(month)
  const before = getISODay(first) - 1
  const days = getDaysInMonth(first)
  const weeks = Array.from({ length: Math.ceil((before + days) / 7) }, (_, week) =>
    NAMES.map((_, i) => {
      const day = week * 7 + i - before + 1
      return day >= 1 && day <= days ? `${month}-${String(day).padStart(2, '0')}` : undefined
    }),
  )
  return { names: NAMES, weeks }
}

/** The day so many days later, or earlier, as 2026-05-31. */
export const addDays = (day: string, by: number): string =>
  formatISO(laterDay(parseISO(day), by), { representation: 'date' })

/** The month so many months later, or earlier. */
export const addMonths = (month: string, by: number): string => format(later(parseISO(month), by), 'yyyy-MM')

export const monthName = (month: string): string => format(parseISO(month), 'MMMM yyyy')
export const dayName = (day: string): string => format(parseISO(day), 'd MMMM yyyy')
