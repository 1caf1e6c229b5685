import { Dialog } from '../../components/Dialog'
import { useTimes } from '../../components/times'
import type { ShownCopy } from '../../domain/copies'
import { formatBytes, plural } from '../../domain/format'
import type { Wire } from '../../domain/wire'

interface Props {
  copies: Wire<ShownCopy>[]
  remove: () => void
  close: () => void
}

/** Asks once more, with what goes by its date: a copy that is removed does not come back. */
export function RemoveCopies({ copies, remove, close }: Props) {
  const { day } = useTimes()
  const alone = copies.reduce((sum, { bytesAlone }) => sum + bytesAlone, 0)
  return (
    <Dialog label="Remove copies" close={close} className="!w-[34rem]">
      <div className="space-y-4">
        <h2 className="text-lg">Remove {plural(copies.length, 'copy', 'copies')}?</h2>
        <ul className="max-h-56 overflow-auto text-sm">
          {copies.map(({ name, deviceName, takenAt }) => (
            <li key={name}>
              {deviceName ?? 'unnamed device'}, {day(takenAt)}
            </li>
          ))}
        </ul>
        <p>
          What other copies need stays. At least {formatBytes(alone)} become free. A copy that is removed does not come
          back, and jobs that have it as a source lose it.
        </p>
        <p className="flex gap-3">
          <button type="button" className="button button-main" onClick={remove}>
            Remove {copies.length === 1 ? 'it' : 'them'}
          </button>
          <button type="button" className="button" onClick={close}>
            Keep {copies.length === 1 ? 'it' : 'them'}
          </button>
        </p>
      </div>
    </Dialog>
  )
}
