/** The days of a month in weeks from Monday to Sunday. */
export interface MonthGrid {
  names: readonly string[]
  /** Days as 2026-05-31; undefined: days of other months. */
  weeks: (string | undefined)[][]
}

const NAMES = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']

const parts = (month: string): [number, number] => {
  const [year = 2000, number = 1] = month.split('-').map(Number)
  return [year, number]
}

/** The weeks of a month such as `2026-05`. */
export function monthGrid(month: string): MonthGrid {
  const [year, number] = parts(month)
  const length = new Date(Date.UTC(year, number, 0)).getUTCDate()
  // Sunday is 0 for the language, and the last day of a week here.
  const before = (new Date(Date.UTC(year, number - 1, 1)).getUTCDay() + 6) % 7
  const weeks = Array.from({ length: Math.ceil((before + length) / 7) }, (_, week) =>
    NAMES.map((_, i) => {
      const day = week * 7 + i - before + 1
      return day >= 1 && day <= length ? `${month}-${String(day).padStart(2, '0')}` : undefined
    }),
  )
  return { names: NAMES, weeks }
}

/** The month so many months later, or earlier. */
export function addMonths(month: string, by: number): string {
  const [year, number] = parts(month)
  return new Date(Date.UTC(year, number - 1 + by)).toISOString().slice(0, 7)
}

const format = (text: string, options: Intl.DateTimeFormatOptions) =>
  new Intl.DateTimeFormat('en', { ...options, timeZone: 'UTC' }).format(new Date(text))

export const monthName = (month: string): string => format(`${month}-01`, { month: 'long', year: 'numeric' })
export const dayName = (day: string): string => format(day, { day: 'numeric', month: 'long', year: 'numeric' })
