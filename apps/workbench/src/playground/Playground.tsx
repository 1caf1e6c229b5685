import { STANDINGS } from '@lumbrin/core/findings/standing'
import { type ReactNode, useState } from 'react'
import { DateField } from '../components/DateField'
import { CloseButton, Dialog } from '../components/Dialog'
import { Failure } from '../components/Failure'
import { Island } from '../components/Island'
import { Popover } from '../components/Popover'
import { StandingMark } from '../components/StandingMark'
import { DEVICE_STATES } from '../domain/device-states'
import { fromAddress } from '../domain/findings-query'
import { HANDOVER_STATES } from '../domain/handover'
import { READ_STATES } from '../domain/read-states'
import { Route } from '../islands/Answer/Route'
import { Strongest } from '../islands/Answer/Strongest'
import { Verdict } from '../islands/Answer/Verdict'
import { DeviceCard } from '../islands/Bay/DeviceCard'
import { EmptyResults } from '../islands/Findings/EmptyResults'
import { HandoverCard } from '../islands/Handover/HandoverCard'
import { FirstStart } from '../islands/Jobs/FirstStart'
import { JobTable } from '../islands/Jobs/JobTable'
import { ReadAccount } from '../islands/Sources/ReadAccount'
import { ReadProgress } from '../islands/Sources/ReadProgress'
import { ANSWERS, deviceIn, handoverIn, jobs, readIn, source } from './fixtures'

/** Every component in every state, on made-up values: for whoever works at them. Only in development. */
export function Playground() {
  return (
    <Island>
      <div className="space-y-8 overflow-auto p-5">
        <Show name="Standings">
          {STANDINGS.map((standing) => (
            <StandingMark key={standing} standing={standing} label />
          ))}
        </Show>
        <Show name="Notices and windows">
          <Failure>Something went wrong; nothing was changed.</Failure>
          <Windows />
        </Show>
        <Show name="Days">
          <Day first={null} label="No day" />
          <Day first="2026-11-14" label="A day" />
        </Show>
        {Object.entries(ANSWERS).map(([name, answer]) => (
          <Show key={name} name={`Answer: ${name}`}>
            <Verdict jobId={1} answer={answer} begun reading={false} inTray={3} edit={() => {}} />
            <Strongest jobId={1} matches={answer.matches} standings={['rebuilt']} />
            <Route route={answer.route} jobId={1} wanted={['messages']} loss={{ from: null, to: null }} />
          </Show>
        ))}
        <Show name="Jobs">
          <JobTable jobs={jobs} />
        </Show>
        <Show name="No job yet">
          <FirstStart />
        </Show>
        {READ_STATES.map((state) => (
          <Show key={state} name={`Read: ${state}`}>
            <ReadProgress jobId={1} read={readIn(state)} />
            <ReadAccount source={source} reads={[readIn(state)]} />
          </Show>
        ))}
        {HANDOVER_STATES.map((state) => (
          <Show key={state} name={`Handover: ${state}`}>
            <HandoverCard handover={handoverIn(state)} />
          </Show>
        ))}
        {(Object.keys(DEVICE_STATES) as (keyof typeof DEVICE_STATES)[]).map((state) => (
          <Show key={state} name={`Device: ${state}`}>
            <DeviceCard device={deviceIn(state)} freeHere={50e9} jobs={[]} look={async () => {}} />
          </Show>
        ))}
        <Show name="No results">
          <EmptyResults loading error={null} query={fromAddress('')} />
          <EmptyResults loading={false} error={null} query={fromAddress('?words=x')} />
          <EmptyResults loading={false} error={null} query={fromAddress('')} />
          <EmptyResults loading={false} error={new Error('The server does not answer.')} query={fromAddress('')} />
        </Show>
      </div>
    </Island>
  )
}

function Show({ name, children }: { name: string; children: ReactNode }) {
  return (
    <section aria-label={name} className="border-t border-rule pt-2">
      <h2 className="mb-2 text-sm text-soft">{name}</h2>
      <div className="flex flex-wrap items-start gap-4 [&>*]:min-w-0">{children}</div>
    </section>
  )
}

function Day({ first, label }: { first: string | null; label: string }) {
  const [day, setDay] = useState(first)
  return <DateField label={label} value={day} change={setDay} />
}

function Windows() {
  const [open, setOpen] = useState(false)
  return (
    <>
      <button type="button" className="button" onClick={() => setOpen(true)}>
        Open a dialog
      </button>
      {open && (
        <Dialog label="A dialog" close={() => setOpen(false)}>
          <p className="mb-3">It holds the focus until it is closed.</p>
          <CloseButton />
        </Dialog>
      )}
      <Popover trigger="Open a popover" label="A popover">
        <p>It stands beside its button.</p>
      </Popover>
    </>
  )
}
