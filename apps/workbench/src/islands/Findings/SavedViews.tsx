import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Popover } from '../../components/Popover'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'
import { type FindingsQuery, fromAddress, toAddress } from '../../domain/findings-query'

interface Props {
  jobId: number
  query: FindingsQuery
  change: (part: Partial<FindingsQuery>) => void
}

/** Views that were kept under a name: filters, search and layout together. */
export function SavedViews({ jobId, query, change }: Props) {
  const path = { job: jobId }
  const views = useAsk('GET /api/jobs/{job}/views', { path }).answer ?? []
  const [name, setName] = useState('')
  const { act, failed } = useAct()
  return (
    <Popover trigger="Views" label="Kept views" className="w-72">
      {views.length === 0 && <p className="text-soft">No view was kept yet.</p>}
      <ul>
        {views.map((view) => (
          <li key={view.id} className="flex items-center gap-2">
            <button
              type="button"
              className="min-w-0 flex-1 truncate px-1 py-0.5 text-left hover:bg-sunk"
              onClick={() => change(fromAddress(view.address, query.zone))}
            >
              {view.name}
            </button>
            <button
              type="button"
              className="text-sm text-accent underline"
              aria-label={`Forget the view ${view.name}`}
              onClick={() => act(() => ask('DELETE /api/jobs/{job}/views', { path, body: { id: view.id } }))}
            >
              forget
            </button>
          </li>
        ))}
      </ul>
      <form
        className="mt-2 flex gap-2 border-t border-rule pt-2"
        onSubmit={(event) => {
          event.preventDefault()
          act(async () => {
            await ask('POST /api/jobs/{job}/views', { path, body: { name, address: toAddress(query) } })
            setName('')
          })
        }}
      >
        <input
          className="field"
          aria-label="Name of this view"
          placeholder="Keep this view as"
          maxLength={60}
          value={name}
          onChange={(event) => setName(event.target.value)}
          required
        />
        <button type="submit" className="button">
          Keep
        </button>
      </form>
      <Failure className="mt-1">{failed}</Failure>
    </Popover>
  )
}
