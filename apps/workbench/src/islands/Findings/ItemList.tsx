import { useVirtualizer } from '@tanstack/react-virtual'
import { formatTime } from '../../components/format'
import { CATEGORY_LABELS } from '../../components/labels'
import { StandingMark } from '../../components/StandingMark'
import type { FindingLine } from '../../database/queries'
import type { Choosing } from './choosing'
import { Highlighted } from './Highlighted'
import type { FindingsQuery } from './query'
import { optionId, ResultBox, useNextPage } from './ResultBox'
import { useFindings } from './useFindings'
import { useListKeys } from './useListKeys'

const ROW = 34

function titleOf({ category, fields, title }: FindingLine): string {
  if (category !== 'messages') return title || 'Without a name'
  return `${fields.direction === 'out' ? 'to' : 'from'} ${title || 'unknown'}`
}

/** Findings one a line, newest first; messages over all conversations. */
export function ItemList({ jobId, query, choosing }: { jobId: number; query: FindingsQuery; choosing: Choosing }) {
  const results = useFindings(jobId, { ...query, conversation: null }, query.matching ? 'match' : 'newest')
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
      label={CATEGORY_LABELS[query.category]}
      query={query}
      results={results}
      keys={keys}
      height={virtual.getTotalSize()}
      className="px-4 py-2"
    >
      {shown.map((item) => {
        const line = lines[item.index]
        if (!line) return null
        return (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the list box handles the keyboard for all of its options
          <div
            key={line.id}
            id={optionId(line)}
            tabIndex={-1}
            role="option"
            aria-selected={line.inTray}
            onClick={() => choosing.look(line)}
            onDoubleClick={() => choosing.enlarge(line)}
            style={{ top: item.start, height: ROW }}
            className={`absolute right-0 left-0 grid grid-cols-[1.25rem_8.5rem_11rem_minmax(0,1fr)_3.5rem] items-center gap-3 border-b border-rule px-1 ${line.id === choosing.active?.id ? 'bg-wash' : ''}`}
          >
            <StandingMark standing={line.standing} />
            <span className="whitespace-nowrap text-soft">{formatTime(line.when)}</span>
            <span className="truncate">{titleOf(line)}</span>
            <span className="truncate" dir="auto">
              <Highlighted text={line.text ?? ''} words={query.words} />
            </span>
            <span className="text-sm font-semibold text-accent">{line.inTray ? 'in tray' : ''}</span>
          </div>
        )
      })}
    </ResultBox>
  )
}
