import { formatISO, parseISO } from 'date-fns'
import { enGB } from 'date-fns/locale/en-GB'
import { DayPicker } from 'react-day-picker'

const CLASSES = {
  months: 'relative',
  nav: 'absolute inset-x-0 top-0 flex justify-between',
  button_previous: 'button !px-2',
  button_next: 'button !px-2',
  chevron: 'h-4 w-4 fill-accent',
  month_caption: 'flex h-8 items-center justify-center font-semibold',
  month_grid: 'mt-2 border-collapse',
  weekday: 'w-9 text-sm font-normal text-soft',
  day: 'p-0 text-center',
  day_button: 'h-8 w-9 rounded hover:bg-wash',
  selected: 'bg-accent text-on-accent rounded',
  today: 'font-semibold underline',
  outside: 'text-soft',
}

/** The days of a month, one of which can be picked; weeks begin on Monday. */
export function Calendar({ day, pick }: { day: string | null; pick: (day: string) => void }) {
  const selected = day === null ? undefined : parseISO(day)
  return (
    <DayPicker
      mode="single"
      required
      autoFocus
      locale={enGB}
      classNames={CLASSES}
      selected={selected}
      {...(selected ? { defaultMonth: selected } : {})}
      onSelect={(picked) => pick(formatISO(picked, { representation: 'date' }))}
    />
  )
}
