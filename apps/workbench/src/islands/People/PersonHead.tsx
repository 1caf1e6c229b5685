import { Failure } from '../../components/Failure.js'
import { LostOrAll } from '../../components/LostOrAll'
import { formatCount, plural } from '../../domain/format'
import { CATEGORY_LABELS } from '../../domain/labels'
import { type PersonQuery, usePerson } from './usePerson'

interface Props {
  jobId: number
  query: PersonQuery
  change: (part: Partial<PersonQuery>) => void
  putAll: () => void
}

/** Who it is, what there is by kind, and what of it is shown. */
export function PersonHead({ jobId, query, change, putAll }: Props) {
  const { answer: person, failed } = usePerson(jobId, query.name)
  const counts = person?.counts ?? []
  const ofKind = counts.filter(({ category }) => query.category === null || category === query.category)
  const sum = (of: 'count' | 'lost') => ofKind.reduce((all, one) => all + one[of], 0)
  const shown = sum(query.lost ? 'lost' : 'count')
  const kind = (category: PersonQuery['category'], label: string, count: number) => (
    <button
      key={label}
      type="button"
      className="chip"
      aria-pressed={query.category === category}
      onClick={() => change({ category })}
    >
      {label} <span className="text-sm text-soft">{formatCount(count)}</span>
    </button>
  )
  return (
    <header className="space-y-2 border-b border-rule px-4 py-2">
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="private min-w-0 truncate text-lg">{query.name}</h2>
        <span className="private min-w-0 truncate text-soft">{person?.addresses.join(', ')}</span>
        <span className="ml-auto">
          <LostOrAll lost={query.lost} change={(lost) => change({ lost })} />
        </span>
        <button type="button" className="button" disabled={shown === 0} onClick={putAll}>
          Put {plural(shown, 'item')} in the tray
        </button>
      </div>
      <p className="flex flex-wrap gap-1.5">
        {counts.length > 1 &&
          kind(
            null,
            'All kinds',
            counts.reduce((all, one) => all + (query.lost ? one.lost : one.count), 0),
          )}
        {counts.map((one) => kind(one.category, CATEGORY_LABELS[one.category], query.lost ? one.lost : one.count))}
      </p>
      <Failure>{failed}</Failure>
    </header>
  )
}
