import type { SiteKind, SiteWords } from '@lumbrin/core/export/site/shapes'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { formatCount, plural } from '../domain/format'
import { ItemRows } from './ItemRows'
import { PageHead, Waiting } from './Page'
import { search } from './search'
import { partOptions, useStart } from './useParts'

/** What holds all of the words, kind by kind. */
export function SearchView({ words }: { words: string }) {
  const { words: firsts, kinds } = useStart()
  const client = useQueryClient()
  const [only, setOnly] = useState<SiteKind | null>(null)
  const { data, error } = useQuery({
    queryKey: ['search', words],
    queryFn: () => search(words, firsts, (part) => client.fetchQuery(partOptions<SiteWords>(`words-${part}`))),
    staleTime: Number.POSITIVE_INFINITY,
  })
  if (!data) return <Waiting error={error} />
  const counts = kinds.flatMap((kind) => {
    const count = within(data.numbers, kind).length
    return count > 0 ? [{ kind, count }] : []
  })
  const shown = only ? within(data.numbers, only) : data.numbers
  return (
    <>
      <PageHead title={`“${words}”`} words={plural(data.numbers.length, 'item')} />
      {data.cut.length > 0 && (
        <p className="notice mx-5 mb-2">
          Too much begins with {data.cut.map((word) => `“${word}”`).join(', ')}: only part of it was looked through.
          Type more letters.
        </p>
      )}
      {counts.length > 1 && (
        <fieldset className="flex flex-wrap gap-2 px-5 pb-3">
          <legend className="sr-only">Kinds of items</legend>
          <Chip pressed={only === null} press={() => setOnly(null)}>
            All {formatCount(data.numbers.length)}
          </Chip>
          {counts.map(({ kind, count }) => (
            <Chip key={kind.id} pressed={only === kind} press={() => setOnly(kind)}>
              {kind.label} {formatCount(count)}
            </Chip>
          ))}
        </fieldset>
      )}
      {data.numbers.length === 0 ? (
        <p className="px-5">
          Nothing here holds all of these words, or words that begin so. Fewer or shorter words find more.
        </p>
      ) : (
        <ItemRows
          key={only?.id ?? ''}
          label="Search results"
          count={shown.length}
          numberAt={(row) => shown[row] ?? 0}
          words={words}
          kinds
        />
      )}
    </>
  )
}

const within = (numbers: readonly number[], { from, to }: SiteKind) =>
  numbers.filter((number) => number >= from && number < to)

function Chip({ pressed, press, children }: { pressed: boolean; press: () => void; children: React.ReactNode }) {
  return (
    <button type="button" className="chip" aria-pressed={pressed} onClick={press}>
      {children}
    </button>
  )
}
