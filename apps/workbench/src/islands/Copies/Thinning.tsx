import { givenUpBy } from '@lumbrin/core/copies/thin'
import { useState } from 'react'
import { Dialog } from '../../components/Dialog'
import { DialogButtons } from '../../components/DialogButtons'
import { useTimes } from '../../components/times'
import type { ShownCopy } from '../../domain/copies'
import { plural } from '../../domain/format'
import type { Wire } from '../../domain/wire'

interface Props {
  copies: Wire<ShownCopy>[]
  /** Names of those that go. */
  choose: (names: string[]) => void
  close: () => void
}

/** Previews which copies a retention rule would remove. Removing them is confirmed in the next dialog. */
export function Thinning({ copies, choose, close }: Props) {
  const { day } = useTimes()
  const [all, setAll] = useState(7)
  const [weekly, setWeekly] = useState(90)
  const dated = copies.map((copy) => ({ ...copy, takenAt: new Date(copy.takenAt) }))
  const going = givenUpBy(dated, { all, weekly }, Date.now())
  return (
    <Dialog label="Thin out" close={close} className="!w-[34rem]">
      <form
        className="space-y-4"
        onSubmit={(event) => {
          event.preventDefault()
          choose(going.map(({ name }) => name))
        }}
      >
        <h2 className="text-lg">Thin out</h2>
        <p className="flex flex-wrap items-center gap-2">
          Keep all of the last <Days label="Days of which all are kept" value={all} set={setAll} /> days,
        </p>
        <p className="flex flex-wrap items-center gap-2">
          then one a week for <Days label="Days of which one a week is kept" value={weekly} set={setWeekly} /> days,
        </p>
        <p>then one a month. The newest of each device always stays.</p>
        <div role="status">
          {going.length === 0 ? (
            <p className="text-soft">By this rule none goes.</p>
          ) : (
            <>
              <p className="font-semibold">{plural(going.length, 'copy goes', 'copies go')}:</p>
              <ul className="max-h-48 overflow-auto text-sm">
                {going.map(({ name, deviceName, takenAt }) => (
                  <li key={name}>
                    {deviceName ?? 'unnamed device'}, {day(takenAt.toISOString())}
                  </li>
                ))}
              </ul>
            </>
          )}
        </div>
        <DialogButtons action="Choose these" disabled={going.length === 0} close={close} />
      </form>
    </Dialog>
  )
}

const MOST_DAYS = 3650

function Days({ label, value, set }: { label: string; value: number; set: (days: number) => void }) {
  return (
    <input
      type="number"
      className="field !w-24"
      aria-label={label}
      min={0}
      max={MOST_DAYS}
      value={value}
      onChange={(event) => set(Math.max(0, Math.min(MOST_DAYS, Math.trunc(Number(event.target.value)))))}
    />
  )
}
