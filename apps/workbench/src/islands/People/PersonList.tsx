import { useVirtualizer } from '@tanstack/react-virtual'
import { Failure } from '../../components/Failure.js'
import { StandingMark } from '../../components/StandingMark'
import { ItemTime } from '../../components/times'
import type { FindingLine } from '../../domain/finding'
import { CATEGORY_LABELS } from '../../domain/labels'
import type { Choosing } from '../Findings/choosing'
import { optionProps } from '../Findings/option'
import { ResultBox, useNextPage } from '../Findings/ResultBox'
import { useListKeys } from '../Findings/useListKeys'
import type { PersonQuery, usePersonFindings } from './usePerson'

const ROW = 30

interface Props {
  query: PersonQuery
  results: ReturnType<typeof usePersonFindings>
  choosing: Choosing
}

/** A person's findings one a line, the newest first. */
export function PersonList({ query, results, choosing }: Props) {
  const { lines } = results
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => keys.box.current,
    estimateSize: () => ROW,
    overscan: 12,
  })
  const keys = useListKeys(lines, 1, choosing, (index) => virtual.scrollToIndex(index))
  const shown = virtual.getVirtualItems()
  useNextPage(results, shown.at(-1)?.index ?? 0, 30)
  return (
    <ResultBox
      label={`Everything with ${query.name}`}
      empty={<Nothing query={query} results={results} />}
      results={results}
      choosing={choosing}
      keys={keys}
      height={virtual.getTotalSize()}
      className="px-3 py-1"
    >
      {shown.map((item) => {
        const line = lines[item.index]
        if (!line) return null
        return (
          <div
            key={line.id}
            role="option"
            tabIndex={-1}
            aria-selected={line.inTray}
            {...optionProps(line, lines, choosing)}
            style={{ top: item.start, height: ROW }}
            className={`absolute right-0 left-0 grid grid-cols-[1.25rem_8.5rem_7.5rem_minmax(0,1fr)_3.5rem] items-center gap-3 border-b border-rule px-1 ${line.id === choosing.active?.id ? 'bg-wash' : ''}`}
          >
            <StandingMark standing={line.standing} binnedAt={line.binnedAt} />
            <span className="whitespace-nowrap text-soft">
              <ItemTime item={line} />
            </span>
            <span className="truncate">{CATEGORY_LABELS[line.category]}</span>
            <span className="truncate" dir="auto">
              {wordsOf(line)}
            </span>
            <span className="text-sm font-semibold text-accent">{line.inTray ? 'in tray' : ''}</span>
          </div>
        )
      })}
    </ResultBox>
  )
}

/** What an item says, with the way it went; of what says nothing, its title. */
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
