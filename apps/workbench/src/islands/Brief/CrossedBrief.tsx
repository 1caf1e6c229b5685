import type { Brief } from '../../domain/brief'
import { CATEGORY_LABELS, DEVICE_STATE_WORDS, SYNCING_WORDS } from '../../domain/labels'

const LABELS: Record<keyof Brief, string> = {
  owner: 'Owner',
  contact: 'How to reach them',
  device: 'Device',
  categories: 'What is sought',
  lostFrom: 'Lost after',
  lostTo: 'Lost before',
  words: 'Words',
  people: 'People',
  dueOn: 'Due',
  retentionDays: 'Keep data for',
  consent: 'The owner agreed',
  deviceState: 'The device is',
  syncing: 'Cloud keeps copies',
  notes: 'Notes',
  timeZone: 'Times',
}

/** Two people changed one brief: where they differ, and which of the two is to stay. */
export function CrossedBrief({
  mine,
  theirs,
  keepMine,
  takeTheirs,
}: {
  mine: Brief
  theirs: Brief
  keepMine: () => void
  takeTheirs: () => void
}) {
  const names = Object.keys(LABELS) as (keyof Brief)[]
  const differing = names.filter((name) => shown(name, mine) !== shown(name, theirs))
  return (
    <section aria-label="Two versions of this brief" className="notice notice-bad col-span-2" role="alert">
      <p className="mb-2 font-semibold">
        Somebody else saved this brief since you opened it. Yours is not saved yet, and theirs is not lost.
      </p>
      <table className="mb-3 w-full table-fixed text-left">
        <thead>
          <tr>
            <th className="w-32 py-1 font-semibold">Field</th>
            <th className="py-1 font-semibold">Yours</th>
            <th className="py-1 font-semibold">Saved by somebody else</th>
          </tr>
        </thead>
        <tbody>
          {differing.map((name) => (
            <tr key={name} className="border-t border-rule align-top">
              <th scope="row" className="py-1 font-normal">
                {LABELS[name]}
              </th>
              <td className="py-1 pr-3 break-words whitespace-pre-line">{shown(name, mine)}</td>
              <td className="py-1 break-words whitespace-pre-line">{shown(name, theirs)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="flex gap-3">
        <button type="button" className="button" onClick={takeTheirs}>
          Take theirs
        </button>
        <button type="button" className="button" onClick={keepMine}>
          Save mine in its place
        </button>
      </div>
    </section>
  )
}

function shown(name: keyof Brief, brief: Brief): string {
  const value = brief[name]
  if (name === 'deviceState') return DEVICE_STATE_WORDS[brief.deviceState]
  if (name === 'timeZone') return value === null ? 'as the device says' : String(value)
  if (name === 'syncing') return SYNCING_WORDS[brief.syncing]
  if (Array.isArray(value)) return value.map((id) => CATEGORY_LABELS[id]).join(', ') || 'nothing'
  if (typeof value === 'boolean') return value ? 'in writing' : 'not yet'
  return String(value ?? '') || 'nothing'
}
