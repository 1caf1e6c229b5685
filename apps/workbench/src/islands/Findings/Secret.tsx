import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'

/** A saved password: masked until it is asked for. */
export function Secret({ findingId }: { findingId: number }) {
  const [secret, setSecret] = useState<string | null>(null)
  const { act, failed } = useAct()
  const reveal = () =>
    act(async () =>
      setSecret((await ask('POST /api/findings/{finding}/secret', { path: { finding: findingId } })).secret),
    )
  return (
    <div className="mt-4 space-y-2">
      <p className="flex items-center gap-3">
        <output aria-label="Password" className="font-mono break-all">
          {secret ?? '••••••••'}
        </output>
        <button type="button" className="button" onClick={secret === null ? reveal : () => setSecret(null)}>
          {secret === null ? 'Reveal' : 'Mask'}
        </button>
      </p>
      <p className="text-sm text-soft">Revealing it is written into the job’s log.</p>
      <Failure>{failed}</Failure>
    </div>
  )
}
