import { CATEGORY_IDS, type CategoryId } from '@lumbrin/core/categories/registry'
import { useEffect, useRef, useState } from 'react'
import { useForm } from 'react-hook-form'
import { ask, RequestError, wordsOf } from '../../api/client'
import { Island } from '../../components/Island'
import type { Brief } from '../../domain/brief'
import { CATEGORY_LABELS, DEVICE_STATE_WORDS, DEVICE_STATES, SYNCING, SYNCING_WORDS } from '../../domain/labels'
import { CrossedBrief } from './CrossedBrief'

const EMPTY: Brief = {
  owner: '',
  device: '',
  categories: [],
  lostFrom: null,
  lostTo: null,
  words: '',
  people: '',
  dueOn: null,
  retentionDays: 30,
  consent: false,
  deviceState: 'in-use',
  syncing: 'not-known',
  notes: '',
}

/** A brief as it is stored. */
interface SavedBrief {
  brief: Brief
  version: string
}

interface Props {
  /** Null: the form opens a new job. */
  jobId: number | null
  brief: Brief | null
  /** Of the brief that is shown; null: the form opens a new job. */
  version?: string | null
  /** Names to pick from. */
  people?: string[]
  /** Told of every change, before it is saved. */
  changed?: (draft: Brief) => void
}

type Result = { kind: 'saved' } | { kind: 'failed'; words: string } | { kind: 'crossed'; theirs: SavedBrief } | null

/** What is sought, for whom, under which conditions. */
export function BriefForm(props: Props) {
  return (
    <Island>
      <Form {...props} />
    </Island>
  )
}

function Form({ jobId, brief, version = null, people = [], changed }: Props) {
  const seen = useRef(version)
  const { register, handleSubmit, formState, subscribe, reset, getValues } = useForm<Brief>({
    defaultValues: brief ?? EMPTY,
  })
  const [result, setResult] = useState<Result>(null)
  useEffect(
    () => changed && subscribe({ formState: { values: true }, callback: ({ values }) => changed(values) }),
    [changed, subscribe],
  )
  const save = async (values: Brief) => {
    try {
      if (jobId !== null) {
        const saved = await ask('PUT /api/jobs/{job}/brief', {
          path: { job: jobId },
          body: values,
          version: seen.current ?? '',
        })
        seen.current = saved.version
        setResult({ kind: 'saved' })
      } else location.href = `/jobs/${(await ask('POST /api/jobs', { body: values })).id}/sources`
    } catch (thrown) {
      const crossed = thrown instanceof RequestError && thrown.code === 'conflict' && jobId !== null
      const theirs = crossed ? await ask('GET /api/jobs/{job}/brief', { path: { job: jobId } }).catch(() => null) : null
      setResult(theirs ? { kind: 'crossed', theirs } : { kind: 'failed', words: wordsOf(thrown) })
    }
  }
  const keepMine = (theirs: SavedBrief) => {
    seen.current = theirs.version
    void handleSubmit(save)()
  }
  const takeTheirs = (theirs: SavedBrief) => {
    seen.current = theirs.version
    reset(theirs.brief)
    setResult(null)
  }
  return (
    <form onSubmit={handleSubmit(save)} className="grid max-w-3xl grid-cols-2 gap-x-6 gap-y-4">
      <Field label="Owner" hint="whose device it is">
        <input className="field" required maxLength={200} {...register('owner')} />
      </Field>
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
      <Field label="Cloud keeps copies" hint="syncing was on for what is sought">
        <select className="field" {...register('syncing')}>
          {SYNCING.map((answer) => (
            <option key={answer} value={answer}>
              {SYNCING_WORDS[answer]}
            </option>
          ))}
        </select>
      </Field>
      <fieldset className="col-span-2">
        <legend className="mb-1 font-semibold">What is sought</legend>
        <div className="grid grid-cols-3 gap-x-5 gap-y-1">
          {CATEGORY_IDS.map((id: CategoryId) => (
            <label key={id} className="flex items-center gap-2">
              <input type="checkbox" value={id} {...register('categories')} className="accent-(--accent)" />
              {CATEGORY_LABELS[id]}
            </label>
          ))}
        </div>
      </fieldset>
      <Field label="Lost after" hint="last day it was surely there">
        <input type="date" className="field" {...register('lostFrom')} />
      </Field>
      <Field label="Lost before" hint="first day it was missed">
        <input type="date" className="field" {...register('lostTo')} />
      </Field>
      <Field label="Words" hint="that stand in what is sought">
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
      <Field label="Due" hint="when the owner expects it">
        <input type="date" className="field" {...register('dueOn')} />
      </Field>
      <Field label="Keep data for" hint="days, then it is to be purged">
        <input
          type="number"
          min={1}
          max={3650}
          className="field"
          {...register('retentionDays', { valueAsNumber: true })}
        />
      </Field>
      <div className="col-span-2">
        <Field label="Notes" hint="backups and accounts the owner remembers, state of the device">
          <textarea rows={4} className="field" maxLength={5000} {...register('notes')} />
        </Field>
      </div>
      <label className="col-span-2 flex items-center gap-2">
        <input type="checkbox" {...register('consent')} className="accent-(--accent)" />
        The owner agreed in writing that this device and its backups are read.
      </label>
      {result?.kind === 'crossed' && (
        <CrossedBrief
          mine={getValues()}
          theirs={result.theirs.brief}
          keepMine={() => keepMine(result.theirs)}
          takeTheirs={() => takeTheirs(result.theirs)}
        />
      )}
      <div className="col-span-2 flex items-center gap-4">
        <button type="submit" className="button button-main" disabled={formState.isSubmitting}>
          {jobId === null ? 'Open the job' : 'Save the brief'}
        </button>
        <output className={result?.kind === 'failed' ? 'notice notice-bad whitespace-pre-line' : 'text-soft'}>
          {result?.kind === 'failed' ? `Not saved: ${result.words}` : result?.kind === 'saved' ? 'Saved.' : ''}
        </output>
      </div>
    </form>
  )
}

function Field({ label, hint, children }: { label: string; hint: string; children: React.ReactNode }) {
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
