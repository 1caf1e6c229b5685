import type { SiteConversation, SiteKind } from '@lumbrin/core/export/site/shapes'
import { useMemo } from 'react'
import { formatCount, plural } from '../domain/format'
import { PageHead, Waiting } from './Page'
import { addressOf } from './route'
import { useConversations } from './useParts'
import { VirtualList } from './VirtualList'

/** The conversations of a kind, the latest first. */
export function ConversationsView({ kind }: { kind: SiteKind }) {
  const { data, error } = useConversations()
  const own = useMemo(() => latestFirst(data ?? [], kind), [data, kind])
  return (
    <>
      <PageHead
        title={kind.label}
        words={data && `${plural(own.length, 'conversation')}, ${plural(kind.to - kind.from, 'message')}`}
      />
      <VirtualList
        label={kind.label}
        count={own.length}
        height={68}
        row={(index) => {
          const one = own[index]
          return one && <Line {...one} />
        }}
        above={!data && <Waiting error={error} />}
      />
    </>
  )
}

interface Indexed {
  index: number
  conversation: SiteConversation
}

function latestFirst(all: readonly SiteConversation[], kind: SiteKind): Indexed[] {
  return all
    .map((conversation, index) => ({ index, conversation }))
    .filter(({ conversation }) => conversation.kind === kind.id)
    .sort((a, b) => (b.conversation.days?.[1] ?? '').localeCompare(a.conversation.days?.[1] ?? ''))
}

function Line({ index, conversation }: Indexed) {
  const { title, members, from, to, lost, days } = conversation
  return (
    <a href={addressOf('conversation', index)} className="block px-2 py-2.5 hover:bg-sunk">
      <span className="flex flex-wrap items-baseline gap-x-3">
        <b dir="auto" className="min-w-0 break-words">
          {title}
        </b>
        <span className="text-sm text-soft">
          {plural(to - from, 'message')}
          {lost > 0 && `, ${formatCount(lost)} had been lost`}
        </span>
        {days && (
          <span className="ml-auto text-sm text-soft">
            {days[0] === days[1] ? days[0] : `${days[0]} to ${days[1]}`}
          </span>
        )}
      </span>
      <span dir="auto" className="line-clamp-1 break-words text-soft">
        {membersOf(members)}
      </span>
    </a>
  )
}

const MOST_NAMED = 6

/** Who wrote, in few words. */
export function membersOf(members: readonly string[]): string {
  if (members.length === 0) return 'Only the owner wrote'
  const more = members.length - MOST_NAMED
  return `With ${members.slice(0, MOST_NAMED).join(', ')}${more > 0 ? ` and ${more} more` : ''}`
}
