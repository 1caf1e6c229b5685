import { useEffect, useId, useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'

const ASK_MS = 400
// Another source's password may open this one too.
const LOOK_MS = 3000

interface Props {
  sourceId: number
  /** It was open before the program was started. */
  wasOpen: boolean
  /** Other sources of the job that a password would open as well. */
  others?: number
  opened: () => void
}

/** The lock of an encrypted source: asks for the password, shows how the keys are derived, and says when it is open. */
export function Unlock({ sourceId, wasOpen, others = 0, opened }: Props) {
  const path = { source: sourceId }
  const [pace, setPace] = useState<number | false>(LOOK_MS)
  const { answer: lock, failed: notAsked } = useAsk('GET /api/sources/{source}/lock', { path }, { every: pace })
  const { act, failed: notSent } = useAct()
  const [password, setPassword] = useState('')
  const [forAll, setForAll] = useState(true)
  const label = useId()
  const failed = notSent || notAsked
  const state = lock?.state
  useEffect(() => setPace(state === 'open' ? false : state === 'opening' ? ASK_MS : LOOK_MS), [state])
  useEffect(() => {
    if (state === 'open') opened()
  }, [state, opened])
  if (!lock) return null
  if (lock.state === 'open')
    return (
      <p className="mt-3 text-soft">
        Unlocked. The password was not kept; the keys go when Lumbrin stops. {lock.message}
      </p>
    )
  const submit = (event: React.FormEvent) => {
    event.preventDefault()
    act(async () => {
      await ask('POST /api/sources/{source}/lock', { path, body: { password, others: forAll && others > 0 } })
      setPassword('')
    })
  }
  return (
    <form onSubmit={submit} className="notice mt-3 space-y-2">
      <p>
        This backup is encrypted.{' '}
        {wasOpen
          ? 'Its keys were only in memory and went when Lumbrin stopped, so the password is needed again.'
          : 'Its password is the one that was set when backups were made, not the passcode of the device.'}
      </p>
      <div className="flex items-end gap-3">
        <label htmlFor={label} className="grow">
          <span className="mb-1 block">Password of the backup</span>
          <input
            id={label}
            type="password"
            autoComplete="off"
            className="field"
            value={password}
            onChange={(event) => setPassword(event.target.value)}
            disabled={lock.state === 'opening'}
            required
          />
        </label>
        <button type="submit" className="button button-main" disabled={lock.state === 'opening'}>
          Unlock
        </button>
      </div>
      {others > 0 && (
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={forAll} onChange={(event) => setForAll(event.target.checked)} />
          Try it on the other {others === 1 ? 'locked source' : `${others} locked sources`} too
        </label>
      )}
      {lock.state === 'opening' && (
        <div>
          <p className="flex items-baseline justify-between gap-3 text-soft">
            Deriving the keys. Newer backups make this slow on purpose.
            <button
              type="button"
              className="button"
              onClick={() => act(() => ask('DELETE /api/sources/{source}/lock', { path }))}
            >
              Cancel
            </button>
          </p>
          <progress className="mt-1 w-full" max={1} value={lock.share} aria-label="Keys derived" />
        </div>
      )}
      {(failed || lock.message) && lock.state === 'locked' && <Failure>{failed || lock.message}</Failure>}
    </form>
  )
}
