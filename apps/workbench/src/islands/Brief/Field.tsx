import type { ReactNode } from 'react'
import { useController } from 'react-hook-form'
import { DateField } from '../../components/DateField'
import type { Brief } from '../../domain/brief'

/** A control with its label, and a hint beside it. */
export function Field({ label, hint, children }: { label: string; hint?: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control comes as the label's child
    <label className="block">
      <span className="mb-1 block">
        <span className="font-semibold">{label}</span> <span className="text-sm text-soft">{hint}</span>
      </span>
      {children}
    </label>
  )
}

interface DayProps {
  name: 'lostFrom' | 'lostTo' | 'dueOn'
  label: string
  hint: string
}

/** A day of the brief. */
export function DayField({ name, label, hint }: DayProps) {
  const { field } = useController<Brief, DayProps['name']>({ name })
  return <DateField label={label} hint={hint} value={field.value || null} change={field.onChange} />
}
