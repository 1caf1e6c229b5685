import { useFormContext } from 'react-hook-form'
import { useHydrated } from '../../components/useHydrated'
import type { Brief } from '../../domain/brief'
import { SYNCING, SYNCING_WORDS } from '../../domain/labels'
import { DayField, Field } from './Field'

/** What a brief may say beside the four questions. */
export function MoreFields() {
  const { register, getValues } = useFormContext<Brief>()
  const zones = useZones(getValues('timeZone'))
  return (
    <div className="space-y-3 border-t border-rule pt-3">
      <label className="flex items-center gap-2">
        <input type="checkbox" {...register('consent')} />
        The owner agreed in writing that this device and its backups are read.
      </label>
      <details>
        <summary className="text-accent">More: due, retention, cloud, times, notes</summary>
        <div className="mt-3 grid grid-cols-2 gap-x-6 gap-y-3">
          <DayField name="dueOn" label="Due" hint="when the owner expects it" />
          <Field label="Keep data for" hint="days, then it is to be purged">
            <input
              type="number"
              min={1}
              max={3650}
              className="field"
              {...register('retentionDays', { valueAsNumber: true })}
            />
          </Field>
          <Field label="Cloud keeps copies" hint="syncing was on for what is sought">
            <select className="field" {...register('syncing')}>
              {SYNCING.map((answer) => (
                <option key={answer} value={answer}>
                  {SYNCING_WORDS[answer]}
                </option>
              ))}
            </select>
          </Field>
          <Field label="Times" hint="by whose clocks they are shown">
            <select className="field" {...register('timeZone', { setValueAs: (value) => value || null })}>
              <option value="">as the device says, else this computer</option>
              {zones.map((zone) => (
                <option key={zone}>{zone}</option>
              ))}
            </select>
          </Field>
          <div className="col-span-2">
            <Field label="Notes" hint="backups and accounts the owner remembers, state of the device">
              <textarea rows={4} className="field" maxLength={5000} {...register('notes')} />
            </Field>
          </div>
        </div>
      </details>
    </div>
  )
}

/** The zones to choose from. Server and browser may know different ones, so that the page comes with the chosen one alone. */
function useZones(chosen: string | null): string[] {
  const hydrated = useHydrated()
  const known = hydrated ? ['UTC', ...Intl.supportedValuesOf('timeZone')] : []
  return [...new Set([...(chosen ? [chosen] : []), ...known])]
}
