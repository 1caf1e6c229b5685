import { useEffect, useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'
import type { CopyAsked, CopyPlace, RegularCopy, ShownCopy } from '../../domain/copies'
import { formatBytes, plural } from '../../domain/format'
import type { Wire } from '../../domain/wire'
import { CompareCopies } from './CompareCopies'
import { CopyTable } from './CopyTable'
import { DeviceCopy } from './DeviceCopy'
import { MovePlace } from './MovePlace'
import { type JobChoice, OpenInJob } from './OpenInJob'
import { RegularCopies } from './RegularCopies'
import { RemoveCopies } from './RemoveCopies'
import { Thinning } from './Thinning'

interface Props {
  place: Wire<CopyPlace>
  /** Changes when something was done in it. */
  ended: number
  jobs: JobChoice[]
  regular: Wire<RegularCopy>[]
}

/** The copies of one place, device by device. */
export function PlaceView({ place: { id, path, away }, ended, jobs, regular }: Props) {
  const { answer, failed, again } = useAsk('GET /api/copies/places/{place}', { path: { place: id } }, { when: !away })
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is asked again each time when something has ended
  useEffect(() => void (!away && again()), [ended])
  const { act, failed: notBegun, busy } = useAct()
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set())
  const [dialog, setDialog] = useState<'device' | 'thin' | 'remove' | 'compare' | 'move' | { open: string } | null>(
    null,
  )
  const begin = (work: Wire<CopyAsked>) =>
    act(() => ask('POST /api/copies/places/{place}/tasks', { path: { place: id }, body: work as CopyAsked }))
  if (away)
    return (
      <section aria-label={path}>
        <Head path={path} />
        <p className="notice">{away} Attach its disk, and it is here again; no copy is lost by it.</p>
        <RegularCopies regular={regular} />
        <Forget id={id} />
      </section>
    )
  if (!answer) return failed ? <Failure>{failed}</Failure> : <p className="text-soft">Reading the copies…</p>
  const { copies, damaged, freeBytes } = answer
  const names = copies.map(({ name }) => name)
  const marked = names.filter((name) => chosen.has(name))
  const pair = pairOf(copies.filter(({ name }) => chosen.has(name)))
  return (
    <section aria-label={path} className="space-y-4">
      <Head path={path}>
        {plural(copies.length, 'copy', 'copies')} · {formatBytes(freeBytes)} free
      </Head>
      <p className="flex flex-wrap items-center gap-3">
        <button type="button" className="button button-main" onClick={() => setDialog('device')}>
          Copy a device…
        </button>
        {copies.length > 0 && (
          <>
            <button
              type="button"
              className="button"
              disabled={busy}
              onClick={() => begin({ kind: 'check', copies: marked.length > 0 ? marked : names })}
            >
              {marked.length > 0 ? `Check ${plural(marked.length, 'copy', 'copies')}` : 'Check all'}
            </button>
            <button type="button" className="button" disabled={marked.length === 0} onClick={() => setDialog('remove')}>
              Remove…
            </button>
            <button
              type="button"
              className="button"
              disabled={!pair}
              title="Of two copies of one device"
              onClick={() => setDialog('compare')}
            >
              Compare…
            </button>
            <button type="button" className="button" onClick={() => setDialog('thin')}>
              Thin out…
            </button>
            <button type="button" className="button" onClick={() => setDialog('move')}>
              Move…
            </button>
            <span className="text-soft" role="status">
              {marked.length > 0 && `${marked.length} chosen`}
            </span>
          </>
        )}
      </p>
      <RegularCopies regular={regular} />
      <Failure>{notBegun || failed}</Failure>
      {damaged.map(({ name, why }) => (
        <p key={name} className="notice notice-bad break-all">
          {why}
        </p>
      ))}
      {copies.length === 0 ? (
        <>
          <p className="text-soft">
            No copies yet. Copy a device that is attached; or open a job, go to Sources, and choose “Keep a safe copy”
            of one.
          </p>
          <Forget id={id} />
        </>
      ) : (
        <CopyTable copies={copies} chosen={chosen} choose={setChosen} open={(name) => setDialog({ open: name })} />
      )}
      {dialog === 'device' && <DeviceCopy place={id} close={() => setDialog(null)} />}
      {dialog === 'compare' && pair && (
        <CompareCopies place={id} from={pair[0]} to={pair[1]} close={() => setDialog(null)} />
      )}
      {dialog === 'move' && (
        <MovePlace
          path={path}
          move={(to) => {
            begin({ kind: 'move', to })
            setDialog(null)
          }}
          close={() => setDialog(null)}
        />
      )}
      {dialog === 'thin' && (
        <Thinning
          copies={copies}
          choose={(given) => {
            setChosen(new Set(given))
            setDialog(given.length > 0 ? 'remove' : null)
          }}
          close={() => setDialog(null)}
        />
      )}
      {dialog === 'remove' && (
        <RemoveCopies
          copies={copies.filter(({ name }) => chosen.has(name))}
          remove={() => {
            begin({ kind: 'remove', copies: marked })
            setChosen(new Set())
            setDialog(null)
          }}
          close={() => setDialog(null)}
        />
      )}
      {dialog !== null && typeof dialog === 'object' && (
        <OpenInJob folder={`${path}/copies/${dialog.open}`} jobs={jobs} close={() => setDialog(null)} />
      )}
    </section>
  )
}

/** Two copies of one device, the earlier first; undefined: there are not just two. */
function pairOf(copies: Wire<ShownCopy>[]): [Wire<ShownCopy>, Wire<ShownCopy>] | undefined {
  const [one, other, ...more] = copies
  if (!one || !other || more.length > 0 || one.device !== other.device) return undefined
  return one.takenAt < other.takenAt ? [one, other] : [other, one]
}

function Head({ path, children }: { path: string; children?: React.ReactNode }) {
  return (
    <div>
      <h2 className="text-lg break-all">{path}</h2>
      <p className="text-soft">{children}</p>
    </div>
  )
}

function Forget({ id }: { id: number }) {
  const { act, failed, busy } = useAct()
  return (
    <div className="mt-3">
      <button
        type="button"
        className="button"
        disabled={busy}
        onClick={() => act(() => ask('DELETE /api/copies/places/{place}', { path: { place: id } }))}
      >
        Take it off this list
      </button>
      <p className="mt-1 text-sm text-soft">What lies there stays as it is.</p>
      <Failure>{failed}</Failure>
    </div>
  )
}
