import { labelOfField } from '@lumbrin/core/categories/field-words'
import { Highlighted } from '../../components/Highlighted'
import { StandingMark } from '../../components/StandingMark'
import { ItemTime, useTimes } from '../../components/times'
import type { FindingLine } from '../../domain/finding'
import { type FindingsQuery, orderOf } from '../../domain/findings-query'
import { formatBytes, zonePlace } from '../../domain/format'
import { CATEGORY_LABELS } from '../../domain/labels'
import { ColumnPicker } from './ColumnPicker'
import type { Choosing } from './choosing'
import { cellOf, useColumns } from './columns'
import { EmptyResults } from './EmptyResults'
import { LineRows } from './LineRows'
import { useFindings } from './useFindings'

function titleOf({ category, fields, title }: FindingLine): string {
  if (category !== 'messages') return title || 'Without a name'
  return `${fields.direction === 'out' ? 'to' : 'from'} ${title || 'unknown'}`
}

interface Props {
  jobId: number
  query: FindingsQuery
  change: (part: Partial<FindingsQuery>) => void
  choosing: Choosing
}

/** Findings one a line, in the order of a column; messages over all conversations. */
export function ItemList({ jobId, query, change, choosing }: Props) {
  const results = useFindings(jobId, { ...query, conversation: null }, orderOf(query))
  const [columns, setColumns] = useColumns(query.category)
  const { zone } = useTimes()
  const fields = columns.map(() => 'minmax(5rem,9rem)').join(' ')
  const widths = `1.25rem 8.5rem 11rem minmax(0,1fr) ${fields} 4.5rem 3.5rem`
  return (
    <div className="flex min-h-0 min-w-0 flex-1 flex-col">
      <div className="relative shrink-0 border-b border-rule text-sm text-soft">
        {/* As wide as the rows below, which have a scroll bar beside them. */}
        <div
          className="grid items-center gap-3 overflow-hidden px-5 py-1 [scrollbar-gutter:stable]"
          style={{ gridTemplateColumns: widths }}
        >
          <span />
          <SortButton
            label={`When (${zonePlace(zone)})`}
            mark={query.order === 'newest' ? '↓' : query.order === 'oldest' ? '↑' : ''}
            sort={() => change({ order: query.order === 'newest' ? 'oldest' : 'newest', matching: false })}
          />
          <SortButton
            label="Title"
            mark={query.order === 'title' ? '↑' : ''}
            sort={() => change({ order: 'title', matching: false })}
          />
          <span>Text</span>
          {columns.map((name) => (
            <span key={name} className="truncate">
              {labelOfField(name)}
            </span>
          ))}
          <SortButton
            label="Size"
            end
            mark={query.order === 'largest' ? '↓' : ''}
            sort={() => change({ order: 'largest', matching: false })}
          />
        </div>
        <div className="absolute top-1 right-5">
          <ColumnPicker category={query.category} columns={columns} choose={setColumns} />
        </div>
      </div>
      <LineRows
        label={CATEGORY_LABELS[query.category]}
        empty={<EmptyResults loading={results.isLoading} error={results.error} query={query} />}
        results={results}
        choosing={choosing}
        columns={widths}
        cells={(line) => (
          <>
            <StandingMark standing={line.standing} />
            <span className="whitespace-nowrap text-soft">
              <ItemTime item={line} />
            </span>
            <span className="truncate">{titleOf(line)}</span>
            <span className="truncate" dir="auto">
              <Highlighted text={line.text ?? ''} words={query.words} />
            </span>
            {columns.map((name) => (
              <span key={name} className="truncate text-soft" dir="auto">
                {cellOf(line, name, zone)}
              </span>
            ))}
            <span className="text-right whitespace-nowrap text-soft tabular-nums">
              {line.bytes > 0 ? formatBytes(line.bytes) : ''}
            </span>
          </>
        )}
      />
    </div>
  )
}

interface SortButtonProps {
  label: string
  mark: string
  /** Its column is set at the right. */
  end?: boolean
  sort: () => void
}

function SortButton({ label, mark, end, sort }: SortButtonProps) {
  return (
    <button
      type="button"
      className={`whitespace-nowrap hover:text-ink ${end ? 'text-right' : 'text-left'}`}
      aria-pressed={mark !== ''}
      onClick={sort}
      title={`Sort by ${label.toLowerCase()}`}
    >
      {label} {mark}
    </button>
  )
}
