import { Failure } from '../../components/Failure.js'
import type { FindingsQuery } from '../../domain/findings-query'

/** Says why there is nothing to see. */
export function EmptyResults({
  loading,
  error,
  query,
}: {
  loading: boolean
  error: Error | null
  query: FindingsQuery
}) {
  if (error) return <Failure>{error.message}</Failure>
  if (loading) return <p className="text-soft">Loading…</p>
  const narrowed = query.words !== '' || query.standings.length > 0
  return (
    <p className="text-soft">
      {narrowed
        ? 'Nothing matches these filters.'
        : 'Nothing was found in this category yet. Read a source in “Sources”.'}
    </p>
  )
}
