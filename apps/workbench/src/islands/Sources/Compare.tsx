import type { JobDevice } from '@lumbrin/core/findings/devices'
import { useTimes } from '../../components/times'
import { sourceName } from '../../domain/labels'
import type { Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'

interface Props {
  jobId: number
  sources: Wire<Source>[]
  devices: readonly JobDevice[]
  chosen: number[]
  setChosen: (ids: number[]) => void
}

/** Two sources side by side: the older one as what is restored, the newer as the device it is restored onto. */
export function Compare({ jobId, sources, devices, chosen, setChosen }: Props) {
  const { day } = useTimes()
  const byDate = [...sources].sort((a, b) => (a.takenAt ?? '').localeCompare(b.takenAt ?? ''))
  const picked = byDate.filter((source) => chosen.includes(source.id))
  // A restore is of a backup onto its own device: two states of the brief's device are what is proposed.
  const [device] = devices
  const own = byDate.filter(({ id }) => device?.sourceIds.includes(id))
  const backup = own.slice(0, -1).findLast(({ info }) => info.kind !== 'device') ?? byDate.at(-2)
  const [first, second] = picked.length === 2 ? picked : own.length > 1 ? [backup, own.at(-1)] : byDate.slice(-2)
  if (!first || !second) return null
  const field = (label: string, value: number, change: (id: number) => void) => (
    <label className="flex min-w-0 items-center gap-2 whitespace-nowrap">
      {label}
      <select className="field min-w-0" value={value} onChange={(event) => change(Number(event.target.value))}>
        {byDate.map((source) => (
          <option key={source.id} value={source.id}>
            {`${sourceName(source.info)}, ${day(source.takenAt)}`}
          </option>
        ))}
      </select>
    </label>
  )
  return (
    <div className="flex flex-wrap items-center gap-4 border-y border-rule py-3">
      {field('Restore of', first.id, (id) => setChosen([id, second.id]))}
      {field('onto', second.id, (id) => setChosen([first.id, id]))}
      <a className="button" href={`/jobs/${jobId}/differences?first=${first.id}&second=${second.id}`}>
        Differences and restore cost
      </a>
    </div>
  )
}
