import { Failure } from '../../components/Failure.js'
import { type FindingsQuery, toAddress } from '../../domain/findings-query'

interface Props {
  loading: boolean
  error: Error | null
  query: FindingsQuery
}

/** Says why there is nothing to see, with the way out. */
export function EmptyResults({ loading, error, query }: Props) {
  if (error) return <Failure>{error.message}</Failure>
  if (loading) return <p className="text-soft">Loading…</p>
  const narrowed = query.standings.length > 0 || query.matching
  if (query.words === '' && !narrowed)
    return <p className="text-soft">Nothing was found in this category yet. Read a source in “Sources”.</p>
  return (
    <p className="space-x-4 text-soft">
      <span>Nothing matches these filters.</span>
      {narrowed && (
        <a className="text-accent underline" href={toAddress({ ...query, standings: [], matching: false })}>
          Look among all, not only the lost
        </a>
      )}
      {query.words !== '' && (
        <a className="text-accent underline" href={toAddress({ ...query, words: '' })}>
          Leave the search out
        </a>
      )}
    </p>
  )
}
