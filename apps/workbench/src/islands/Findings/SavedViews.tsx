import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { ask, wordsOf } from '../../api/client'
import { Popover } from '../../components/Popover'
import { type FindingsQuery, fromAddress, toAddress } from '../../domain/findings-query'
import type { SavedView } from '../../domain/job'

interface Props {
  jobId: number
  query: FindingsQuery
  change: (part: Partial<FindingsQuery>) => void
}

/** Views that were kept under a name: filters, search and layout together. */
export function SavedViews({ jobId, query, change }: Props) {
  const client = useQueryClient()
  const path = { job: jobId }
  const { data: views = [] } = useQuery({
    queryKey: ['views', jobId],
    queryFn: ({ signal }) => ask('GET /api/jobs/{job}/views', { path, signal }),
  })
  const [name, setName] = useState('')
  const [failed, setFailed] = useState('')
  const follow = (answer: Promise<SavedView[]>) =>
    answer.then(
      (now) => {
        setFailed('')
        setName('')
        client.setQueryData(['views', jobId], now)
      },
      (thrown) => setFailed(wordsOf(thrown)),
    )
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
              onClick={() => void follow(ask('DELETE /api/jobs/{job}/views', { path, body: { id: view.id } }))}
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
          void follow(ask('POST /api/jobs/{job}/views', { path, body: { name, address: toAddress(query) } }))
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
      {failed && <p className="mt-1 text-partial">{failed}</p>}
    </Popover>
  )
}
