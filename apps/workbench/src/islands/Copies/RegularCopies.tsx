import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useTimes } from '../../components/times'
import { useAct } from '../../components/useAct'
import type { RegularCopy } from '../../domain/copies'
import { oftenWords } from '../../domain/regular-copies'
import type { Wire } from '../../domain/wire'

/** Devices that are copied into a place again and again: when they were, and which of them is to be attached. */
export function RegularCopies({ regular }: { regular: Wire<RegularCopy>[] }) {
  if (regular.length === 0) return null
  return (
    <section aria-label="Regular copies">
      <h3 className="mb-1 font-semibold">Copied regularly</h3>
      <ul className="divide-y divide-rule border-y border-rule">
        {regular.map((one) => (
          <Line key={one.id} regular={one} />
        ))}
      </ul>
    </section>
  )
}

function Line({
  regular: { id, deviceName, udid, part, everyDays, lastAt, dueAt, atWork, failed },
}: {
  regular: Wire<RegularCopy>
}) {
  const { day } = useTimes()
  const { act, failed: notEnded, busy } = useAct()
  const isDue = !atWork && Date.parse(dueAt) <= Date.now()
  return (
    <li className="flex flex-wrap items-baseline gap-x-3 py-2">
      <span className="font-semibold">{deviceName ?? udid}</span>
      <span className="text-soft">
        {part === 'media' ? 'pictures, films, recordings and music' : 'everything'}, {oftenWords(everyDays)}
        {lastAt ? ` · last ${day(lastAt)}` : ' · none made yet'}
      </span>
      <span className={isDue ? 'text-partial' : 'text-soft'}>
        {atWork ? 'is copied now' : isDue ? 'due: attach it and unlock it' : `next from ${day(dueAt)}`}
      </span>
      <button
        type="button"
        className="button ml-auto"
        disabled={busy}
        aria-label={`End the regular copies of ${deviceName ?? udid}`}
        onClick={() => act(() => ask('DELETE /api/copies/regular/{regular}', { path: { regular: id } }))}
      >
        End
      </button>
      {failed && <p className="w-full text-sm text-partial">The last attempt came to nothing: {failed}</p>}
      <Failure className="w-full">{notEnded}</Failure>
    </li>
  )
}
