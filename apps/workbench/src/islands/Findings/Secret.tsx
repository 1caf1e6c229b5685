import { useEffect, useState } from 'react'
import { ask, wordsOf } from '../../api/client'
import { Failure } from '../../components/Failure.js'

/** A saved password: masked until it is asked for, and masked again when another finding is looked at. */
export function Secret({ findingId }: { findingId: number }) {
  const [secret, setSecret] = useState<string | null>(null)
  const [failed, setFailed] = useState('')
  // biome-ignore lint/correctness/useExhaustiveDependencies: another finding has another password
  useEffect(() => {
    setSecret(null)
    setFailed('')
  }, [findingId])
  const reveal = async () => {
    try {
      const answer = await ask('POST /api/findings/{finding}/secret', { path: { finding: findingId } })
      setSecret(answer.secret)
    } catch (thrown) {
      setFailed(wordsOf(thrown))
    }
  }
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
