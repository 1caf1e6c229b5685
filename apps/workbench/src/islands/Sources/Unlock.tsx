import { useEffect, useId, useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'

const ASK_MS = 400

/** The lock of an encrypted source: asks for the password, shows how the keys are derived, and says when it is open. */
export function Unlock({ sourceId, wasOpen, opened }: { sourceId: number; wasOpen: boolean; opened: () => void }) {
  const path = { source: sourceId }
  const [opening, setOpening] = useState(false)
  const { answer: lock, failed: notAsked } = useAsk(
    'GET /api/sources/{source}/lock',
    { path },
    { every: opening && ASK_MS },
  )
  const { act, failed: notSent } = useAct()
  const [password, setPassword] = useState('')
  const label = useId()
  const failed = notSent || notAsked
  const state = lock?.state
  useEffect(() => setOpening(state === 'opening'), [state])
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
      await ask('POST /api/sources/{source}/lock', { path, body: { password } })
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
      {lock.state === 'opening' && (
        <div>
          <p className="text-soft">Deriving the keys. Newer backups make this slow on purpose.</p>
          <progress className="mt-1 w-full" max={1} value={lock.share} aria-label="Keys derived" />
        </div>
      )}
      {(failed || lock.message) && lock.state === 'locked' && <Failure>{failed || lock.message}</Failure>}
    </form>
  )
}
