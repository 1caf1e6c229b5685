import { type CategoryId, categoriesIn, GROUPS } from '@lumbrin/core/categories/registry'
import { useFormContext, useWatch } from 'react-hook-form'
import type { Brief } from '../../domain/brief'
import { CATEGORY_LABELS, DEVICE_STATE_WORDS, DEVICE_STATES, GROUP_LABELS } from '../../domain/labels'
import { DayField, Field } from './Field'

/** What most people miss (common practice). */
const USUAL: readonly CategoryId[] = ['photos', 'videos', 'messages', 'contacts', 'notes']

/** The four questions of a job: whose, which device, what was lost, when. */
export function Questions({ people }: { people: string[] }) {
  const { register } = useFormContext<Brief>()
  return (
    <>
      <Question title="Whose is it?">
        <Field label="Owner">
          <input className="field" required maxLength={200} {...register('owner')} />
        </Field>
        <Field label="How to reach them" hint="telephone or e-mail">
          <input className="field" maxLength={200} {...register('contact')} />
        </Field>
      </Question>
      <Question title="Which device?">
        <Field label="Device" hint="as the owner calls it">
          <input className="field" maxLength={200} {...register('device')} />
        </Field>
        <Field label="The device is" hint="what can be read depends on it">
          <select className="field" {...register('deviceState')}>
            {DEVICE_STATES.map((state) => (
              <option key={state} value={state}>
                {DEVICE_STATE_WORDS[state]}
              </option>
            ))}
          </select>
        </Field>
      </Question>
      <Question title="What was lost?">
        <Kinds />
        <Field label="Words" hint="that stand in it">
          <input className="field" maxLength={500} {...register('words')} />
        </Field>
        <Field label="People" hint="names or numbers">
          <input className="field" maxLength={500} list="known-people" {...register('people')} />
          <datalist id="known-people">
            {people.map((name) => (
              <option key={name} value={name} />
            ))}
          </datalist>
        </Field>
      </Question>
      <Question title="When?">
        <DayField name="lostFrom" label="Lost after" hint="last day it was surely there" />
        <DayField name="lostTo" label="Lost before" hint="first day it was missed" />
      </Question>
    </>
  )
}

function Question({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <fieldset className="grid grid-cols-2 gap-x-6 gap-y-3 border-t border-rule pt-3">
      <legend className="pr-3 text-lg font-semibold">{title}</legend>
      {children}
    </fieldset>
  )
}

/** Kinds of item: the usual ones first, all others by groups. */
function Kinds() {
  const chosen = useWatch<Brief, 'categories'>({ name: 'categories' })
  const others = chosen.filter((id) => !USUAL.includes(id)).length
  return (
    <div className="col-span-2">
      <ul className="flex flex-wrap gap-2" aria-label="Usual kinds">
        {USUAL.map((id) => (
          <li key={id}>
            <Kind id={id} chip />
          </li>
        ))}
      </ul>
      <details className="mt-3" open={others > 0}>
        <summary className="text-accent">All kinds{others > 0 ? ` (${others} chosen)` : ''}</summary>
        <div className="mt-2 grid grid-cols-3 gap-x-5 gap-y-3">
          {GROUPS.map((group) => (
            <fieldset key={group}>
              <legend className="text-sm text-soft">{GROUP_LABELS[group]}</legend>
              {categoriesIn(group)
                .filter((id) => !USUAL.includes(id))
                .map((id) => (
                  <Kind key={id} id={id} />
                ))}
            </fieldset>
          ))}
        </div>
      </details>
    </div>
  )
}

function Kind({ id, chip = false }: { id: CategoryId; chip?: boolean }) {
  const { register } = useFormContext<Brief>()
  return (
    <label className={chip ? 'chip has-checked:border-accent has-checked:bg-wash' : 'flex items-center gap-2'}>
      <input type="checkbox" value={id} {...register('categories')} />
      {CATEGORY_LABELS[id]}
    </label>
  )
}
