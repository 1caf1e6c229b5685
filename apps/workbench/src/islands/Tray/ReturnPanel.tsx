import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Moment } from '../../components/times'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'
import type { ReturnEntry, ReturnPlan, ReturnPreview } from '../../domain/bay'
import { formatCount, plural } from '../../domain/format'
import { CATEGORY_LABELS } from '../../domain/labels'
import type { Wire } from '../../domain/wire'

/** Contacts, notes and messages of the tray go back to the owner's device: seen before, on record after, undone at will. */
export function ReturnPanel({ jobId, returns: first }: { jobId: number; returns: Wire<ReturnEntry>[] }) {
  const { answer: returns } = useAsk('GET /api/jobs/{job}/returns', { path: { job: jobId } }, { first })
  const [open, setOpen] = useState(false)
  return (
    <section aria-label="Return to a device" className="mt-8 max-w-5xl border-t border-rule pt-4">
      <h2>Return to a device</h2>
      <p className="text-soft">
        Contacts, notes and messages of the tray can be put back onto a device of the owner. What it has already is left
        alone.
      </p>
      {open ? (
        <Returning jobId={jobId} />
      ) : (
        <button type="button" className="button mt-2" onClick={() => setOpen(true)}>
          Choose a device
        </button>
      )}
      {returns && returns.length > 0 && <Earlier jobId={jobId} returns={returns} />}
    </section>
  )
}

const LOOK_MS = 3000

function Returning({ jobId }: { jobId: number }) {
  const path = { job: jobId }
  const { answer: targets, failed: away } = useAsk('GET /api/jobs/{job}/returns/targets', { path }, { every: LOOK_MS })
  const [udid, look] = useState('')
  const { answer: preview, failed } = useAsk(
    'GET /api/jobs/{job}/returns/preview',
    { path, query: { udid } },
    { when: udid !== '', keep: false },
  )
  return (
    <div className="mt-2 space-y-3">
      <Failure>{failed || away}</Failure>
      {targets?.length === 0 && (
        <p className="text-soft">
          No device of this job’s owner is attached and ready. The Bay says what is on the cables; a device that the
          owner has now is added in Sources first.
        </p>
      )}
      <p className="flex gap-2">
        {targets?.map((device) => (
          <button key={device.udid} type="button" className="button" onClick={() => look(device.udid)}>
            {device.name ?? device.udid}
          </button>
        ))}
      </p>
      {preview && <Plan jobId={jobId} preview={preview} />}
    </div>
  )
}

interface PlanProps {
  jobId: number
  preview: ReturnPreview
}

function Plan({ jobId, preview }: PlanProps) {
  const { device, plans, left } = preview
  const [confirming, setConfirming] = useState(false)
  const name = device.name ?? device.udid
  const count = plans.reduce((sum, plan) => sum + plan.adds.length, 0)
  const { act, failed, busy } = useAct()
  const giveBack = () =>
    act(() =>
      ask('POST /api/jobs/{job}/returns', { path: { job: jobId }, body: { udid: device.udid, confirmed: name } }),
    )
  if (plans.length === 0 && left.length === 0)
    return <p className="text-soft">The tray holds no contacts, notes or messages.</p>
  return (
    <>
      <table className="table">
        <caption className="text-left text-soft">Before and after on {device.name}</caption>
        <thead>
          <tr>
            <th>Kind</th>
            <th className="figure">There now</th>
            <th className="figure">There already</th>
            <th className="figure">Added</th>
            <th className="figure">There after</th>
            <th>What is added</th>
          </tr>
        </thead>
        <tbody>
          {plans.map((plan) => (
            <PlanRow key={plan.kind} plan={plan} />
          ))}
        </tbody>
      </table>
      {left.length > 0 && (
        <details className="notice">
          <summary>{plural(left.length, 'item')} cannot go back</summary>
          <ul className="mt-1 list-disc pl-5">
            {left.map(({ title, why }, index) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: two items may read alike, and the list never changes
              <li key={index}>
                <span className="private">{title}</span>: {why}
              </li>
            ))}
          </ul>
        </details>
      )}
      {device.theftLock && (
        <p className="notice">
          The theft lock of {device.name} is on: it takes nothing. Its owner turns it off in the settings of the device;
          look again after that.
        </p>
      )}
      <Failure>{failed}</Failure>
      {confirming ? (
        <div className="notice flex flex-wrap items-center gap-3" role="alertdialog" aria-label="Confirm the return">
          <span>
            {plural(count, 'item')} will be written onto <strong>“{name}”</strong> ({device.udid}). Is it the owner’s,
            and is it the one on the cable?
          </span>
          <button type="button" className="button button-main" onClick={giveBack} disabled={busy}>
            Write onto {name}
          </button>
          <button type="button" className="button" onClick={() => setConfirming(false)}>
            Do not
          </button>
        </div>
      ) : (
        <button
          type="button"
          className="button button-main"
          disabled={count === 0 || device.theftLock === true}
          onClick={() => setConfirming(true)}
        >
          Return {plural(count, 'item')} to {name}
        </button>
      )}
    </>
  )
}

const EXAMPLES = 4

function PlanRow({ plan: { kind, before, adds, known } }: { plan: ReturnPlan }) {
  const rest = adds.length - EXAMPLES
  return (
    <tr>
      <td className="font-semibold">{CATEGORY_LABELS[kind]}</td>
      <td className="figure">{formatCount(before)}</td>
      <td className="figure">{formatCount(known)}</td>
      <td className="figure">{formatCount(adds.length)}</td>
      <td className="figure">{formatCount(before + adds.length)}</td>
      <td className="private">
        {adds
          .slice(0, EXAMPLES)
          .map(({ title }) => title)
          .join('; ')}
        {rest > 0 && ` and ${plural(rest, 'more', 'more')}`}
      </td>
    </tr>
  )
}

function Earlier({ jobId, returns }: { jobId: number; returns: Wire<ReturnEntry>[] }) {
  const { act, failed } = useAct()
  const undo = (id: number) =>
    act(() => ask('POST /api/jobs/{job}/returns/{return}/undo', { path: { job: jobId, return: id } }))
  return (
    <div className="mt-4">
      <h3 className="font-semibold">Returned before</h3>
      <ul className="divide-y divide-rule">
        {returns.map((row) => (
          <li key={row.id} className="flex items-baseline gap-4 py-2">
            <span>
              <Moment at={row.at} />
            </span>
            <span>
              {plural(row.ids.length, 'item')} of {CATEGORY_LABELS[row.kind]} to {row.deviceName}
            </span>
            <span className="private min-w-0 flex-1 truncate text-soft">{row.titles.join('; ')}</span>
            {row.undoneAt ? (
              <span className="text-soft">
                undone on <Moment at={row.undoneAt} />
              </span>
            ) : (
              <button type="button" className="button" onClick={() => undo(row.id)}>
                Undo the return
              </button>
            )}
          </li>
        ))}
      </ul>
      <Failure>{failed}</Failure>
    </div>
  )
}
