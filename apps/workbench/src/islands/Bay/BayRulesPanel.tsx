import { useEffect, useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'
import type { BayPlan, BayRules } from '../../domain/bay-rules'
import { mayTell } from './tell'

const KNOWN: Record<BayRules['known'], string> = {
  nothing: 'leave it to me',
  read: 'read it in its job, as it is now',
}
const UNKNOWN: Record<BayRules['unknown'], string> = {
  nothing: 'leave it to me',
  'open-job': 'open a job for it',
  read: 'open a job for it, and read it there',
}
const PRESETS: Record<BayRules['preset'], string> = {
  brief: 'what the brief seeks; the usual kinds where it names none',
  usual: 'the usual kinds',
  pictures: 'pictures and films',
}

const isOff = ({ known, unknown }: BayRules) => known === 'nothing' && unknown === 'nothing'

/** What is done by itself with a device that is plugged in: looked at, tried, changed, switched off. */
export function BayRulesPanel() {
  const { answer, failed } = useAsk('GET /api/bay/rules', {})
  const [draft, setDraft] = useState<BayRules | null>(null)
  const [plans, setPlans] = useState<BayPlan[] | null>(null)
  const { act, failed: notDone, busy } = useAct()
  const rules = draft ?? answer?.rules
  // What was tried is true of the rules that were tried alone.
  // biome-ignore lint/correctness/useExhaustiveDependencies: it goes with every change of the draft
  useEffect(() => setPlans(null), [draft])
  if (!answer || !rules) return <Failure>{failed}</Failure>
  const change = (part: Partial<BayRules>) => setDraft({ ...rules, ...part })
  const save = () =>
    act(async () => {
      await ask('PUT /api/bay/rules', { body: rules, version: answer.version })
      setDraft(null)
    })
  const attempt = () => act(async () => setPlans(await ask('POST /api/bay/rules/trial', { body: rules })))
  return (
    <details className="mb-5 border-b border-rule pb-3">
      <summary>
        When a device is plugged in:{' '}
        <span className="text-soft">{isOff(answer.rules) ? 'it is left to you' : wordsOf(answer.rules)}</span>
      </summary>
      <form
        className="mt-3 max-w-3xl space-y-3"
        onSubmit={(event) => {
          event.preventDefault()
          save()
        }}
      >
        <p className="text-sm text-soft">
          What is on the cables already is left alone. No rule writes to a device, or asks it for trust; one that is
          locked is read once it is unlocked. Reads go one after the other.
        </p>
        <Choice
          label="A device that a job has"
          words={KNOWN}
          value={rules.known}
          change={(known) => change({ known })}
        />
        <Choice
          label="Any other device"
          words={UNKNOWN}
          value={rules.unknown}
          change={(unknown) => change({ unknown })}
        />
        <Choice label="What is read" words={PRESETS} value={rules.preset} change={(preset) => change({ preset })} />
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={rules.tell}
            onChange={({ target }) => {
              if (target.checked) void mayTell()
              change({ tell: target.checked })
            }}
          />
          Sound and a note of the browser when something is done or needs a hand, while this page is open
        </label>
        <p className="flex gap-3">
          <button type="submit" className="button button-main" disabled={busy || draft === null}>
            Save
          </button>
          <button type="button" className="button" disabled={busy} onClick={attempt}>
            Try: what would be done now?
          </button>
          {!isOff(rules) && (
            <button
              type="button"
              className="button"
              disabled={busy}
              onClick={() => change({ known: 'nothing', unknown: 'nothing' })}
            >
              Switch off
            </button>
          )}
        </p>
        <Failure>{notDone}</Failure>
        {plans && <Plans plans={plans} />}
      </form>
    </details>
  )
}

/** Rules that are on, in a line. */
const wordsOf = ({ known, unknown }: BayRules): string =>
  [
    known === 'nothing' ? '' : `a device that a job has: ${KNOWN[known]}`,
    unknown === 'nothing' ? '' : `any other: ${UNKNOWN[unknown]}`,
  ]
    .filter(Boolean)
    .join('; ')

interface ChoiceProps<T extends string> {
  label: string
  words: Record<T, string>
  value: T
  change: (value: T) => void
}

function Choice<T extends string>({ label, words, value, change }: ChoiceProps<T>) {
  const values = Object.keys(words) as T[]
  return (
    <label className="grid grid-cols-[13rem_minmax(0,1fr)] items-center gap-3 max-sm:grid-cols-1">
      {label}
      <select
        className="field"
        value={value}
        onChange={({ target }) => change(values.find((one) => one === target.value) ?? value)}
      >
        {values.map((one) => (
          <option key={one} value={one}>
            {words[one]}
          </option>
        ))}
      </select>
    </label>
  )
}

function Plans({ plans }: { plans: BayPlan[] }) {
  return (
    <div role="status" className="notice" aria-label="What would be done">
      {plans.length === 0 && 'Nothing is on the cables to try it on.'}
      <ul className="space-y-1">
        {plans.map(({ udid, name, words }) => (
          <li key={udid}>
            <span className="private font-semibold">{name ?? udid}</span>: {words}
          </li>
        ))}
      </ul>
    </div>
  )
}
