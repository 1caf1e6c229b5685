import { useState } from 'react'
import { CloseButton, Dialog } from '../../components/Dialog'
import { Failure } from '../../components/Failure.js'
import { Scroller } from '../../components/Scroller'
import { useTimes } from '../../components/times'
import { useAsk } from '../../components/useAsk'
import type { CopyDifference, ShownCopy } from '../../domain/copies'
import { COPY_CHANGES, type CopyChange } from '../../domain/copy-changes'
import { formatBytes, formatCount } from '../../domain/format'
import type { Wire } from '../../domain/wire'

interface Props {
  place: number
  /** The earlier state, and the later one. */
  from: Wire<ShownCopy>
  to: Wire<ShownCopy>
  close: () => void
}

/** What came, changed and went between two states of a device, file by file. */
export function CompareCopies({ place, from, to, close }: Props) {
  const { time } = useTimes()
  const query = { from: from.name, to: to.name }
  const { answer, failed } = useAsk('GET /api/copies/places/{place}/difference', { path: { place }, query })
  return (
    <Dialog label="Compare two copies" close={close} className="!w-[52rem]">
      <div className="space-y-3">
        <h2 className="text-lg">
          {from.deviceName ?? 'unnamed device'}, from {time(from.takenAt)} to {time(to.takenAt)}
        </h2>
        <Failure>{failed}</Failure>
        {answer ? <Parts difference={answer} /> : !failed && <p className="text-soft">Comparing the two lists…</p>}
        <p>
          <CloseButton />
        </p>
      </div>
    </Dialog>
  )
}

const LABELS: Record<CopyChange, string> = { added: 'New', changed: 'Changed', gone: 'No longer in it' }

function Parts({ difference }: { difference: Wire<CopyDifference> }) {
  const [chosen, choose] = useState<CopyChange | null>(null)
  const shown = chosen ?? COPY_CHANGES.find((change) => difference[change].count > 0)
  if (!shown) return <p>Both hold the same files, byte for byte.</p>
  const { count, files } = difference[shown]
  return (
    <>
      <p className="flex gap-2">
        {COPY_CHANGES.map((change) => (
          <button
            key={change}
            type="button"
            className="chip"
            aria-pressed={change === shown}
            onClick={() => choose(change)}
          >
            {LABELS[change]} {formatCount(difference[change].count)} · {formatBytes(difference[change].bytes)}
          </button>
        ))}
      </p>
      <Scroller label={LABELS[shown]} className="h-72 overflow-auto border-y border-rule">
        {shown === 'gone' && count > 0 && (
          <p className="py-2 text-sm text-soft">
            That a file is not in the later copy does not say that it is gone from the device: a backup without a
            password, for one, holds less.
          </p>
        )}
        {count === 0 && <p className="py-2 text-soft">None.</p>}
        <ul>
          {files.map(({ domain, path, size }) => (
            <li key={`${domain}/${path}`} className="flex items-baseline gap-3 border-b border-rule py-1 text-sm">
              <span className="min-w-0 flex-1 font-mono break-all">
                <span className="text-soft">{domain}/</span>
                {path}
              </span>
              <span className="figure whitespace-nowrap text-soft">{size !== null && formatBytes(size)}</span>
            </li>
          ))}
        </ul>
        {files.length < count && <p className="py-2 text-soft">and {formatCount(count - files.length)} more</p>}
      </Scroller>
    </>
  )
}
