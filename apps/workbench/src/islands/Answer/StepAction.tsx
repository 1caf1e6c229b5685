import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { StepAction as Action } from '@lumbrin/core/findings/route-facts'
import { type ReactNode, type RefObject, useCallback, useRef, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import type { Loss } from '../../domain/loss'
import { CloudPanel } from '../Sources/CloudPanel'
import { Unlock } from '../Sources/Unlock'

interface Props {
  jobId: number
  rule: string
  action: Action
  /** Categories of the brief. */
  wanted: readonly CategoryId[]
  loss: Loss
  /** What a restore would be compared with. */
  newestSourceId: number | null
  /** It is the step that leads on. */
  main?: boolean
  /** Nothing on the page matters more. */
  strong?: boolean
}

/** What carries a step of the route out: at one click, in its place, or by leading to where it is done. */
export function StepAction({ jobId, rule, action, wanted, loss, newestSourceId, main = false, strong = false }: Props) {
  const { act, failed, busy } = useAct()
  const [open, setOpen] = useState(false)
  const path = { job: jobId }
  const style = `button mt-1.5 ${strong ? 'button-main' : ''}`
  const read = useCallback(
    (source: number) =>
      ask('POST /api/sources/{source}/reads', { path: { source }, body: { categories: [...wanted] } }),
    [wanted],
  )
  const addAndRead = (add: () => Promise<{ id: number }>) => act(async () => read((await add()).id))
  const way = useRef<HTMLElement>(null)
  useHotkeys('n', () => way.current?.click(), { enabled: main })
  const shared = main
    ? { ref: (element: HTMLElement | null) => keep(way, element), title: 'N', 'aria-keyshortcuts': 'n' }
    : {}
  const button = (label: string, perform: () => void) => (
    <button type="button" className={style} onClick={perform} disabled={busy} {...shared}>
      {label}
    </button>
  )
  const link = (label: string, href: string) => (
    <a className={`${style} inline-block`} href={href} {...shared}>
      {label}
    </a>
  )
  const unfolded = (label: string, held: ReactNode) => (open ? held : button(label, () => setOpen(true)))
  const sources = `/jobs/${jobId}/sources`
  const made = (): ReactNode => {
    switch (action.kind) {
      case 'open': {
        const query = new URLSearchParams({ category: wanted[0] ?? 'photos', matching: 'true' })
        if (action.standings.length > 0) query.set('standings', action.standings.join(','))
        return link('Open in Findings', `/jobs/${jobId}/findings?${query}`)
      }
      case 'read':
        return button('Read it now', () => act(() => read(action.sourceId)))
      case 'retry':
        return button('Try again', () =>
          act(() => ask('POST /api/sources/{source}/again', { path: { source: action.sourceId } })),
        )
      case 'unlock':
        return unfolded('Enter the password', <UnlockAndRead sourceId={action.sourceId} read={read} />)
      case 'add-backup': {
        const add = () => ask('POST /api/jobs/{job}/sources', { path, body: { folder: action.path } })
        return action.locked ? button('Add it', () => act(add)) : button('Add and read it', () => addAndRead(add))
      }
      case 'add-device':
        return button('Add and read it', () =>
          addAndRead(() => ask('POST /api/jobs/{job}/devices', { path, body: { udid: action.udid } })),
        )
      case 'add-snapshot':
        return button('Add and read it', () =>
          addAndRead(() => ask('POST /api/jobs/{job}/cloud/sources', { path, body: { snapshot: action.id } })),
        )
      case 'sign-in':
        return unfolded('Sign in', <CloudPanel jobId={jobId} loss={loss} />)
      case 'find-backups':
        return link('Search for backups', sources)
      case 'bay':
        return link('Open the Bay', '/bay')
      case 'restore-cost':
        return newestSourceId === null || newestSourceId === action.sourceId
          ? link('Go to the sources', sources)
          : link('See the restore cost', `/jobs/${jobId}/differences?first=${action.sourceId}&second=${newestSourceId}`)
      default:
        return button('Done', () => act(() => ask('POST /api/jobs/{job}/steps', { path, body: { rule, done: true } })))
    }
  }
  return (
    <>
      {made()}
      <Failure className="mt-2">{failed}</Failure>
    </>
  )
}

/** One of several kinds of element. */
function keep(ref: RefObject<HTMLElement | null>, element: HTMLElement | null): void {
  ref.current = element
}

/** Takes the password of a source, and reads it as soon as it is open. */
function UnlockAndRead({ sourceId, read }: { sourceId: number; read: (source: number) => Promise<unknown> }) {
  const { act, failed } = useAct()
  const opened = useCallback(() => act(() => read(sourceId)), [act, read, sourceId])
  return (
    <>
      <Unlock sourceId={sourceId} wasOpen={false} opened={opened} />
      <Failure className="mt-2">{failed}</Failure>
    </>
  )
}
