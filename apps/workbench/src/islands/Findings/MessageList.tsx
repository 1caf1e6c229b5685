import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect } from 'react'
import { formatTime } from '../../components/format'
import { StandingMark } from '../../components/StandingMark'
import { EmptyResults } from './EmptyResults'
import type { Choosing } from './FindingsView'
import { Highlighted } from './Highlighted'
import type { FindingsQuery } from './query'
import { useFindings } from './useFindings'
import { useListKeys } from './useListKeys'

const ROW = 34

/** Messages one a line, newest first, over all conversations. */
export function MessageList({ jobId, query, choosing }: { jobId: number; query: FindingsQuery; choosing: Choosing }) {
  const { lines, hasNextPage, fetchNextPage, isFetching, isLoading, error } = useFindings(
    jobId,
    { ...query, conversation: null },
    'newest',
  )
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => keys.box.current,
    estimateSize: () => ROW,
    overscan: 12,
  })
  const keys = useListKeys(lines, 1, choosing, (index) => virtual.scrollToIndex(index))
  const shown = virtual.getVirtualItems()
  const last = shown.at(-1)?.index ?? 0
  useEffect(() => {
    if (last >= lines.length - 30 && hasNextPage && !isFetching) void fetchNextPage()
  }, [last, lines.length, hasNextPage, isFetching, fetchNextPage])
  return (
    <div {...keys.props} role="listbox" aria-label="Messages" className="min-w-0 overflow-auto px-4 py-2">
      {lines.length === 0 && <EmptyResults loading={isLoading} error={error} query={query} />}
      <div role="presentation" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {shown.map((item) => {
          const line = lines[item.index]
          if (!line) return null
          const outgoing = line.fields.direction === 'out'
          return (
            // biome-ignore lint/a11y/useKeyWithClickEvents: the list box handles the keyboard for all of its options
            <div
              key={line.id}
              id={`finding-${line.id}`}
              role="option"
              tabIndex={-1}
              aria-selected={line.inTray}
              onClick={() => choosing.look(line)}
              onDoubleClick={() => choosing.enlarge(line)}
              style={{ top: item.start, height: ROW }}
              className={`absolute right-0 left-0 grid grid-cols-[1.25rem_8.5rem_11rem_minmax(0,1fr)_3.5rem] items-center gap-3 border-b border-rule px-1 ${line.id === choosing.active?.id ? 'bg-wash' : ''}`}
            >
              <StandingMark standing={line.standing} />
              <span className="whitespace-nowrap text-soft">{formatTime(line.when)}</span>
              <span className="truncate">{`${outgoing ? 'to' : 'from'} ${line.title || 'unknown'}`}</span>
              <span className="truncate" dir="auto">
                <Highlighted text={line.text ?? ''} words={query.words} />
              </span>
              <span className="text-sm font-semibold text-accent">{line.inTray ? 'in tray' : ''}</span>
            </div>
          )
        })}
      </div>
    </div>
  )
}
