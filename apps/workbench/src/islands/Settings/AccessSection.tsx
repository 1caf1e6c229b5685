import { useState } from 'react'
import { ask, wordsOf } from '../../api/client'
import { Failure } from '../../components/Failure'

/** Closes this application to this browser, or to every browser that was let in. */
export function AccessSection() {
  const [problem, setProblem] = useState<string | null>(null)
  const lock = async (all: boolean) => {
    try {
      await ask('DELETE /api/session', { query: { all: String(all) } })
      location.assign('/')
    } catch (thrown) {
      setProblem(wordsOf(thrown))
    }
  }
  return (
    <section aria-label="Browsers that were let in" className="max-w-2xl space-y-3">
      <p className="text-soft">
        Lumbrin answers only to browsers that were let in by the address which its start prints, or{' '}
        <code className="font-mono text-sm">npm run open</code>. They are let out after 12 hours without work, and after
        a week at the latest.
      </p>
      <div className="flex gap-3">
        <button type="button" className="button" onClick={() => lock(false)}>
          Lock this browser
        </button>
        <button type="button" className="button" onClick={() => lock(true)}>
          Lock all browsers
        </button>
      </div>
      <Failure>{problem}</Failure>
    </section>
  )
}
