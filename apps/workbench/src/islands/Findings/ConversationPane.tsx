import { useEffect, useRef } from 'react'
import { useTimes } from '../../components/times'
import type { ConversationLine } from '../../domain/finding'
import { type FindingsQuery, lostWith } from '../../domain/findings-query'
import { formatCount } from '../../domain/format'
import type { Choosing } from './choosing'
import { EmptyResults } from './EmptyResults'
import { Thread } from './Thread'
import { useConversations } from './useFindings'

interface Props {
  jobId: number
  query: FindingsQuery
  change: (part: Partial<FindingsQuery>) => void
  choosing: Choosing
}

/** Conversations at the left, the one that is open beside them. */
export function ConversationPane({ jobId, query, change, choosing }: Props) {
  const { data: conversations = [], isLoading, error } = useConversations(jobId, query, true)
  const current = conversations.find((line) => line.key === query.conversation) ?? conversations[0]
  return (
    <div className="grid min-h-0 min-w-0 grid-cols-[15rem_minmax(0,1fr)]">
      <nav aria-label="Conversations" className="overflow-auto border-r border-rule">
        {conversations.length === 0 && (
          <div className="p-4">
            <EmptyResults loading={isLoading} error={error} query={query} />
          </div>
        )}
        {conversations.map((line) => (
          <ConversationTab
            key={line.key}
            line={line}
            current={line === current}
            pick={() => change({ conversation: line.key })}
          />
        ))}
      </nav>
      {current && (
        <Thread
          key={current.key}
          jobId={jobId}
          query={{ ...query, conversation: current.key }}
          title={isLost(current) ? `${titleOf(current)} (conversation lost)` : titleOf(current)}
          choosing={choosing}
        />
      )}
    </div>
  )
}

const isLost = ({ key }: ConversationLine) => lostWith(key) !== undefined
const titleOf = (line: ConversationLine) => (isLost(line) ? line.title || 'Somebody unknown' : line.title || line.key)

function ConversationTab({ line, current, pick }: { line: ConversationLine; current: boolean; pick: () => void }) {
  const { day } = useTimes()
  const tab = useRef<HTMLButtonElement>(null)
  useEffect(() => {
    if (current) tab.current?.scrollIntoView({ block: 'nearest' })
  }, [current])
  return (
    <button
      ref={tab}
      type="button"
      onClick={pick}
      aria-current={current ? 'true' : undefined}
      className="block w-full border-b border-rule px-4 py-2 text-left hover:bg-sunk aria-[current]:bg-wash"
    >
      <span className="flex justify-between gap-2">
        <span className="private truncate font-semibold">{titleOf(line)}</span>
        <span>{formatCount(line.total)}</span>
      </span>
      <span className="flex justify-between gap-2 text-sm text-soft">
        <span>{isLost(line) ? 'conversation lost' : day(line.lastAt)}</span>
        <span>{line.lost > 0 ? `${formatCount(line.lost)} lost` : ''}</span>
      </span>
    </button>
  )
}
