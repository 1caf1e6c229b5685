import { Failure } from '../../components/Failure.js'
import { StandingMark } from '../../components/StandingMark'
import { ItemTime } from '../../components/times'
import type { FindingLine } from '../../domain/finding'
import { CATEGORY_LABELS } from '../../domain/labels'
import type { Choosing } from '../Findings/choosing'
import { LineRows } from '../Findings/LineRows'
import type { PersonQuery, usePersonFindings } from './usePerson'

interface Props {
  query: PersonQuery
  results: ReturnType<typeof usePersonFindings>
  choosing: Choosing
}

/** A person's findings one a line, the newest first. */
export function PersonList({ query, results, choosing }: Props) {
  return (
    <LineRows
      label={`Everything with ${query.name}`}
      empty={<Nothing query={query} results={results} />}
      results={results}
      choosing={choosing}
      columns="1.25rem 8.5rem 7.5rem minmax(0,1fr) 3.5rem"
      cells={(line) => (
        <>
          <StandingMark standing={line.standing} binnedAt={line.binnedAt} />
          <span className="whitespace-nowrap text-soft">
            <ItemTime item={line} />
          </span>
          <span className="truncate">{CATEGORY_LABELS[line.category]}</span>
          <span className="truncate" dir="auto">
            {wordsOf(line)}
          </span>
        </>
      )}
    />
  )
}

/** The text of an item, marked where the owner sent it; its title where it has no text. */
function wordsOf({ fields, text, title }: FindingLine): string {
  const way = fields.direction === 'out' ? 'from the owner: ' : ''
  return `${way}${text || title || 'Without a name'}`
}

function Nothing({ query, results: { isLoading, error } }: Pick<Props, 'query' | 'results'>) {
  if (error) return <Failure>{error.message}</Failure>
  if (isLoading) return <p className="p-2 text-soft">Loading…</p>
  return (
    <p className="p-2 text-soft">
      {query.lost
        ? `Nothing with ${query.name} is gone from the device, as far as it was read.`
        : `Nothing with ${query.name} was found in what was read. Names and numbers are looked for exactly.`}
    </p>
  )
}
