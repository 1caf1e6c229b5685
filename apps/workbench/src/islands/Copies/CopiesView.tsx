import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Island } from '../../components/Island'
import { Scroller } from '../../components/Scroller'
import type { Zoned } from '../../components/times'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'
import type { CopiesPage, CopyPlace } from '../../domain/copies'
import type { Wire } from '../../domain/wire'
import type { JobChoice } from './OpenInJob'
import { PlaceView } from './PlaceView'
import { TaskLine } from './TaskLine'

interface Props extends Zoned {
  jobs: JobChoice[]
  /** Folders below which places may lie. */
  roots: string[]
}

/** States of devices that are kept: where they lie, what each changed, and what can be done with them. */
export const CopiesView = ({ zone, ...props }: Props) => (
  <Island zone={zone}>
    <Copies {...props} />
  </Island>
)

const WORKING_MS = 1000
const isAtWork = ({ state }: { state: string }) => state === 'queued' || state === 'running' || state === 'stopping'

function Copies({ jobs, roots }: Omit<Props, 'zone'>) {
  const [working, setWorking] = useState(false)
  const { answer, failed } = useAsk('GET /api/copies', {}, { every: working ? WORKING_MS : 5 * WORKING_MS })
  const busy = answer?.tasks.some(isAtWork) ?? false
  if (busy !== working) setWorking(busy)
  const [chosen, choose] = useState<number | null>(null)
  const place = answer?.places.find(({ id }) => id === chosen) ?? answer?.places[0]
  return (
    <div className="min-h-0 flex-1 overflow-auto md:grid md:grid-cols-[18rem_minmax(0,1fr)] md:overflow-hidden">
      <nav
        aria-label="Places of copies"
        className="space-y-4 border-rule p-5 max-md:border-b md:overflow-auto md:border-r"
      >
        <h1 className="text-lg">Safe copies</h1>
        <p className="text-sm text-soft">
          A copy keeps the state of a device. The first takes what the device takes, each later one only what is new.
          Copies are made of an attached device, or of a source on the page Sources of its job.
        </p>
        {answer && <PlaceList places={answer.places} here={place?.id ?? null} choose={choose} />}
        <AddPlace root={roots[0] ?? ''} added={choose} />
        <Failure>{failed}</Failure>
      </nav>
      <Scroller label="Copies" className="min-h-0 space-y-6 p-5 md:overflow-auto">
        {answer && <Tasks {...answer} />}
        {place ? (
          <PlaceView
            key={place.id}
            place={place}
            ended={endedIn(answer, place.id)}
            jobs={jobs}
            regular={answer?.regular.filter((one) => one.place === place.id) ?? []}
          />
        ) : (
          answer && (
            <p className="text-soft">
              There is no place of copies yet. Name a folder at the left: an empty one, or one that holds copies
              already.
            </p>
          )
        )}
      </Scroller>
    </div>
  )
}

/** How much work of a place has ended: when it is more, the place has changed. */
const endedIn = (page: Wire<CopiesPage> | null, place: number) =>
  Math.max(0, ...(page?.tasks ?? []).filter((task) => task.place === place && !isAtWork(task)).map(({ id }) => id))

function PlaceList({
  places,
  here,
  choose,
}: {
  places: Wire<CopyPlace>[]
  here: number | null
  choose: (id: number) => void
}) {
  return (
    <ul className="space-y-1">
      {places.map(({ id, path, away }) => (
        <li key={id}>
          <button
            type="button"
            aria-current={id === here ? 'true' : undefined}
            className="w-full rounded border border-transparent px-2 py-1 text-left break-all hover:bg-wash aria-[current]:border-rule aria-[current]:bg-wash aria-[current]:font-semibold"
            onClick={() => choose(id)}
          >
            {path}
            {away && <span className="block text-sm font-normal text-partial">away</span>}
          </button>
        </li>
      ))}
    </ul>
  )
}

function AddPlace({ root, added }: { root: string; added: (id: number) => void }) {
  const { act, failed, busy } = useAct()
  const [folder, setFolder] = useState('')
  return (
    <form
      className="space-y-2"
      onSubmit={(event) => {
        event.preventDefault()
        act(async () => {
          const { id } = await ask('POST /api/copies/places', { body: { folder } })
          setFolder('')
          added(id)
        })
      }}
    >
      <label className="block">
        <span className="mb-1 block">Add a place</span>
        <input
          className="field"
          placeholder={`${root}/copies`}
          value={folder}
          onChange={(event) => setFolder(event.target.value)}
        />
      </label>
      <button type="submit" className="button" disabled={busy || folder.trim() === ''}>
        Add this folder
      </button>
      <Failure>{failed}</Failure>
    </form>
  )
}

const SHOWN_TASKS = 2

/** What is done now, then what ended last. */
function Tasks({ tasks, places }: Wire<CopiesPage>) {
  const [all, setAll] = useState(false)
  if (tasks.length === 0) return null
  // Where there is one place only, its path says nothing.
  const pathOf = (place: number) => (places.length > 1 ? (places.find(({ id }) => id === place)?.path ?? '') : '')
  const shown = all ? tasks : tasks.filter((task, at) => isAtWork(task) || at < SHOWN_TASKS)
  return (
    <section aria-label="Work on copies">
      <h2 className="mb-2 font-semibold">What was done</h2>
      <ul className="divide-y divide-rule border-y border-rule">
        {shown.map((task) => (
          <TaskLine key={task.id} task={task} path={pathOf(task.place)} />
        ))}
      </ul>
      {shown.length < tasks.length && (
        <button type="button" className="mt-1 text-sm text-accent underline" onClick={() => setAll(true)}>
          Show {tasks.length - shown.length} earlier
        </button>
      )}
    </section>
  )
}
