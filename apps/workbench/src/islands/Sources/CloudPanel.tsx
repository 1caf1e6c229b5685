import { modelName } from '@lumbrin/core/backup/models'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { ask } from '../../api/client'
import type { BodyGiven } from '../../api/contracts'
import { Failure } from '../../components/Failure.js'
import { useTimes } from '../../components/times'
import { useAct } from '../../components/useAct'
import { keyOf, useAsk } from '../../components/useAsk'
import type { CloudState } from '../../domain/cloud'
import { formatBytes, plural } from '../../domain/format'
import { type Loss, stance } from '../../domain/loss'
import type { Wire } from '../../domain/wire'

interface Props {
  jobId: number
  loss: Loss
}

type State = Wire<CloudState>
/** Both steps of signing in: account and password, then the code that was sent. */
type Proof = BodyGiven<'POST /api/jobs/{job}/cloud'>
type SignedIn = Extract<State, { step: 'in' }>

/** The owner's cloud account: sign in by two steps, then choose what becomes a source of the job. */
export function CloudPanel({ jobId, loss }: Props) {
  const path = { job: jobId }
  const client = useQueryClient()
  const { answer: state, failed: notAsked, again } = useAsk('GET /api/jobs/{job}/cloud', { path })
  const { act, failed: notDone } = useAct()
  const failed = notDone || notAsked
  const send = (body: Proof) =>
    act(async () => {
      try {
        client.setQueryData<State>(
          keyOf('GET /api/jobs/{job}/cloud', { path }),
          await ask('POST /api/jobs/{job}/cloud', { path, body }),
        )
      } catch (thrown) {
        // A code that failed too often ends the sign-in.
        await again()
        throw thrown
      }
    })
  const signOut = () => act(() => ask('DELETE /api/jobs/{job}/cloud', { path }))
  if (state?.step === 'none') return null
  return (
    <section aria-label="Cloud account" className="space-y-2">
      <h2>Cloud account</h2>
      <Failure>{failed}</Failure>
      {!state && !failed && <p className="text-soft">Asking…</p>}
      {state?.step === 'out' && <SignIn send={send} />}
      {state?.step === 'code' && <Code account={state.account} sentTo={state.sentTo} send={send} cancel={signOut} />}
      {state?.step === 'in' && <Account jobId={jobId} state={state} loss={loss} signOut={signOut} />}
    </section>
  )
}

function SignIn({ send }: { send: (body: Proof) => void }) {
  const [account, setAccount] = useState('')
  const [password, setPassword] = useState('')
  return (
    <form
      className="space-y-2"
      onSubmit={(event) => {
        event.preventDefault()
        // It leaves the page at once, whatever the service says.
        setPassword('')
        send({ account, password })
      }}
    >
      <label className="block">
        <span className="mb-1 block">Account</span>
        <input
          className="field"
          autoComplete="off"
          value={account}
          onChange={(event) => setAccount(event.target.value)}
          required
        />
      </label>
      <label className="block">
        <span className="mb-1 block">Password of the account</span>
        <input
          className="field"
          type="password"
          autoComplete="off"
          value={password}
          onChange={(event) => setPassword(event.target.value)}
          required
        />
      </label>
      <p className="text-sm text-soft">It is used to sign in and forgotten. A code goes to a device of the owner’s.</p>
      <button type="submit" className="button">
        Sign in
      </button>
    </form>
  )
}

interface CodeProps {
  account: string
  sentTo: string
  send: (body: Proof) => void
  cancel: () => void
}

function Code({ account, sentTo, send, cancel }: CodeProps) {
  const [code, setCode] = useState('')
  return (
    <form
      className="space-y-2"
      onSubmit={(event) => {
        event.preventDefault()
        send({ code })
      }}
    >
      <p>
        A code for <span className="private">{account}</span> was sent to {sentTo}.
      </p>
      <label className="block">
        <span className="mb-1 block">Code</span>
        <input
          className="field w-40 font-mono"
          inputMode="numeric"
          autoComplete="one-time-code"
          value={code}
          onChange={(event) => setCode(event.target.value)}
          required
        />
      </label>
      <p className="flex gap-2">
        <button type="submit" className="button">
          Continue
        </button>
        <button type="button" className="button" onClick={cancel}>
          Begin again
        </button>
      </p>
    </form>
  )
}

interface AccountProps {
  jobId: number
  state: SignedIn
  loss: Loss
  signOut: () => void
}

function Account({ jobId, state, loss, signOut }: AccountProps) {
  const { account, devices, archives, problem } = state
  const { time, day: dayOf, zone } = useTimes()
  const { act, busy, failed } = useAct()
  const add = (body: BodyGiven<'POST /api/jobs/{job}/cloud/sources'>) =>
    act(() => ask('POST /api/jobs/{job}/cloud/sources', { path: { job: jobId }, body }))
  const days = [...new Set(archives.map(({ takenAt }) => takenAt))].sort().reverse()
  const kept = Object.entries(account.syncs).filter(([, on]) => on)
  const left = Object.entries(account.syncs).filter(([, on]) => !on)
  return (
    <div className="space-y-3">
      <p className="flex items-baseline justify-between gap-3">
        <span>
          Signed in as <span className="private">{account.name}</span>
        </span>
        <button type="button" className="button" onClick={signOut}>
          Sign out
        </button>
      </p>
      {problem && <p className="notice">{problem}</p>}
      <Failure>{failed}</Failure>
      {devices.map((device) => (
        <div key={device.id}>
          <h3 className="font-semibold">
            Backups of <span className="private">{device.name}</span>, {modelName(device.productType)}
          </h3>
          <ul className="divide-y divide-rule">
            {[...device.snapshots].reverse().map((snapshot) => (
              <Choice
                key={snapshot.id}
                title={`state of ${time(snapshot.takenAt)}${stance(snapshot.takenAt, loss, zone)}`}
                detail={`${plural(snapshot.files, 'file')}, ${formatBytes(snapshot.bytes)}${snapshot.complete ? '' : ', interrupted'}`}
                busy={busy}
                add={() => add({ snapshot: snapshot.id })}
              />
            ))}
          </ul>
        </div>
      ))}
      <div>
        <h3 className="font-semibold">Library</h3>
        <ul className="divide-y divide-rule">
          <Choice
            title="as it is now, with its bin"
            detail={`Pictures, and files deleted lately: the bin empties itself after about 30 days. Kept here: ${kept.map(([kind]) => kind).join(', ')}.${left.length > 0 ? ` Not kept: ${left.map(([kind]) => kind).join(', ')}.` : ''}`}
            busy={busy}
            add={() => add({ library: 'now' })}
          />
          {days.map((day) => (
            <Choice
              key={day}
              title={`archives of ${dayOf(day)}${stance(day, loss, zone)}`}
              detail={archives
                .filter(({ takenAt }) => takenAt === day)
                .map(({ kind, count }) => `${kind} ${count}`)
                .join(', ')}
              busy={busy}
              add={() => add({ archivesOf: day })}
            />
          ))}
        </ul>
        <p className="text-sm text-soft">
          The cloud keeps no earlier states of pictures: those are in its bin, or in a backup.
        </p>
      </div>
    </div>
  )
}

function Choice({ title, detail, busy, add }: { title: string; detail: string; busy: boolean; add: () => void }) {
  return (
    <li className="flex items-start justify-between gap-3 py-2">
      <span>
        {title}
        <br />
        <span className="text-sm text-soft">{detail}</span>
      </span>
      <button type="button" className="button" onClick={add} disabled={busy} aria-label={`Add: ${title}`}>
        {busy ? 'Listing…' : 'Add'}
      </button>
    </li>
  )
}
