import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { StepAction as Action } from '@lumbrin/core/findings/route-facts'
import { useState } from 'react'
import { ask, wordsOf } from '../../api/client'
import { Failure } from '../../components/Failure.js'

interface Props {
  jobId: number
  rule: string
  action: Action
  /** Categories of the brief. */
  wanted: readonly CategoryId[]
  /** What a restore would be compared with. */
  newestSourceId: number | null
}

/** What carries a step of the route out: at one click, or by leading to where it is done. */
export function StepAction({ jobId, rule, action, wanted, newestSourceId }: Props) {
  const [failed, setFailed] = useState('')
  const path = { job: jobId }
  const done = (sent: Promise<unknown>, then: string) =>
    sent.then(
      () => location.assign(then),
      (thrown) => setFailed(wordsOf(thrown)),
    )
  const sources = `/jobs/${jobId}/sources`
  const button = (label: string, act: () => void) => (
    <button type="button" className="button mt-1.5" onClick={act}>
      {label}
    </button>
  )
  const link = (label: string, href: string) => (
    <a className="button mt-1.5 inline-block" href={href}>
      {label}
    </a>
  )
  const made = () => {
    switch (action.kind) {
      case 'open': {
        const query = new URLSearchParams({ category: wanted[0] ?? 'photos', matching: 'true' })
        if (action.standings.length > 0) query.set('standings', action.standings.join(','))
        return link('Open in Findings', `/jobs/${jobId}/findings?${query}`)
      }
      case 'read':
        return button('Read it now', () =>
          done(
            ask('POST /api/sources/{source}/reads', {
              path: { source: action.sourceId },
              body: { categories: [...wanted] },
            }),
            sources,
          ),
        )
      case 'retry':
        return button('Try again', () =>
          done(ask('POST /api/sources/{source}/again', { path: { source: action.sourceId } }), sources),
        )
      case 'unlock':
        return link('Enter the password', `${sources}#source-${action.sourceId}`)
      case 'add-backup':
        return button('Add it', () =>
          done(ask('POST /api/jobs/{job}/sources', { path, body: { folder: action.path } }), sources),
        )
      case 'add-device':
        return button('Add it', () =>
          done(ask('POST /api/jobs/{job}/devices', { path, body: { udid: action.udid } }), sources),
        )
      case 'add-snapshot':
        return button('Add it', () =>
          done(ask('POST /api/jobs/{job}/cloud/sources', { path, body: { snapshot: action.id } }), sources),
        )
      case 'sign-in':
        return link('Sign in', sources)
      case 'find-backups':
        return link('Search for backups', sources)
      case 'bay':
        return link('Open the Bay', '/bay')
      case 'restore-cost':
        return newestSourceId === null || newestSourceId === action.sourceId
          ? link('Go to the sources', sources)
          : link('See the restore cost', `/jobs/${jobId}/differences?first=${action.sourceId}&second=${newestSourceId}`)
      default:
        return button('Done', () =>
          done(ask('POST /api/jobs/{job}/steps', { path, body: { rule, done: true } }), location.href),
        )
    }
  }
  return (
    <>
      {made()}
      <Failure className="mt-2">{failed}</Failure>
    </>
  )
}
