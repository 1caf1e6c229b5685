import { isValid, parseISO } from 'date-fns'
import CalendarDays from 'lucide-react/icons/calendar-days'
import { lazy, Suspense, useId, useState } from 'react'
import { Popover } from './Popover'

// Months are drawn when somebody asks for them.
const Calendar = lazy(() => import('./Calendar').then((module) => ({ default: module.Calendar })))

interface Props {
  label: string
  /** A day such as 2026-11-14; null: none. */
  value: string | null
  change: (day: string | null) => void
  hint?: string
  /** Label and field on one line, in small. */
  inline?: boolean
}

const ISO_DAY = /^\d{4}-\d\d-\d\d$/
const isDay = (text: string) => ISO_DAY.test(text) && isValid(parseISO(text))

/** A day, typed as ISO 8601 has it or picked from a calendar. What is no day is told, and is not passed on. */
export function DateField({ label, value, change, hint, inline = false }: Props) {
  const [text, setText] = useState(value ?? '')
  const [seen, setSeen] = useState(value)
  const [open, setOpen] = useState(false)
  const id = useId()
  // A day that was changed from outside takes the place of what was typed.
  if (value !== seen) {
    setSeen(value)
    setText(value ?? '')
  }
  const wrong = text !== '' && !isDay(text)
  const take = (next: string) => {
    setText(next)
    const day = next === '' ? null : next
    if (day !== null && !isDay(day)) return
    setSeen(day)
    change(day)
  }
  return (
    <div className={inline ? 'flex items-center gap-1' : ''}>
      <label htmlFor={id} className={inline ? '' : 'mb-1 block'}>
        <span className={inline ? '' : 'font-semibold'}>{label}</span>{' '}
        {hint && <span className="text-sm text-soft">{hint}</span>}
      </label>
      <div className="flex gap-1">
        <input
          id={id}
          className={inline ? 'field !w-28 !py-0 text-sm' : 'field min-w-0'}
          placeholder="YYYY-MM-DD"
          inputMode="numeric"
          autoComplete="off"
          maxLength={10}
          value={text}
          aria-invalid={wrong}
          aria-describedby={wrong ? `${id}-wrong` : undefined}
          onChange={(event) => take(event.target.value.trim())}
        />
        <Popover
          trigger={<CalendarDays size={16} aria-label={`Calendar: ${label}`} />}
          triggerClass={inline ? 'button !px-1 !py-0' : 'button !px-2'}
          label={label}
          open={open}
          setOpen={setOpen}
        >
          <Suspense fallback={<p className="p-3 text-soft">Drawing the month…</p>}>
            <Calendar
              day={isDay(text) ? text : null}
              pick={(day) => {
                take(day)
                setOpen(false)
              }}
            />
          </Suspense>
        </Popover>
      </div>
      {wrong && (
        <p id={`${id}-wrong`} className="mt-1 text-sm text-partial" role="alert">
          A day looks like 2026-11-14.
        </p>
      )}
    </div>
  )
}
