import type { BagCheck } from '@lumbrin/core/export/bag-check'
import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Scroller } from '../../components/Scroller'
import { useAct } from '../../components/useAct'
import { formatCount } from '../../domain/format'
import { SIGNATURE_WORDS } from '../../domain/labels'

/** Compares a package with its manifest again, whenever that is doubted. */
export function CheckAgain({ handoverId }: { handoverId: number }) {
  const [check, setCheck] = useState<BagCheck | null>(null)
  const { act, failed, busy } = useAct()
  const run = () =>
    act(async () => setCheck(await ask('POST /api/handovers/{handover}/check', { path: { handover: handoverId } })))
  const wrong = check && [
    ...check.altered.map((path) => `changed: ${path}`),
    ...check.missing.map((path) => `gone: ${path}`),
    ...check.unlisted.map((path) => `not of this handover: ${path}`),
    ...(check.signature === 'invalid' ? [SIGNATURE_WORDS.invalid] : []),
  ]
  return (
    <div className="mt-2" aria-live="polite">
      <button type="button" className="button" disabled={busy} onClick={run}>
        {busy ? 'Checking…' : 'Check it again'}
      </button>
      {check && wrong?.length === 0 && (
        <span className="ml-3">
          All {formatCount(check.checked)} files are as they were written; {SIGNATURE_WORDS[check.signature]}.
        </span>
      )}
      {wrong && wrong.length > 0 && (
        <div className="notice notice-bad mt-2">
          <p>The package is not as it was written:</p>
          <Scroller label="What is wrong" className="mt-1 max-h-48 overflow-auto">
            <ul className="list-disc pl-5 font-mono text-sm">
              {wrong.map((line) => (
                <li key={line}>{line}</li>
              ))}
            </ul>
          </Scroller>
        </div>
      )}
      <Failure className="mt-2">{failed}</Failure>
    </div>
  )
}
