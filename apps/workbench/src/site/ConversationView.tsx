import { LOST_STANDINGS } from '@lumbrin/core/findings/standing'
import { useQueryClient } from '@tanstack/react-query'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useRef, useState } from 'react'
import { MessageWords } from '../components/MessageWords'
import { StandingMark } from '../components/StandingMark'
import { plural } from '../domain/format'
import { membersOf } from './ConversationsView'
import { dayWords } from './GalleryView'
import { MessageFiles } from './MessageFiles'
import { PageHead, Scrolled, Waiting } from './Page'
import { linkTo } from './parts'
import { addressOf } from './route'
import { itemOf, useConversations, useItem } from './useParts'

/** One conversation from its first message to the last. `at`: the number of the message at which it opens. */
export function ConversationView({ index, at }: { index: number; at: number | null }) {
  const { data, error } = useConversations()
  const conversation = data?.[index]
  const box = useRef<HTMLElement>(null)
  const from = conversation?.from ?? 0
  const virtual = useVirtualizer({
    count: (conversation?.to ?? 0) - from,
    getScrollElement: () => box.current,
    estimateSize: () => 76,
    overscan: 10,
    ...(at === null ? {} : { initialOffset: 76 * Math.max(0, at - from - 3) }),
  })
  useEffect(() => {
    if (at !== null && conversation) virtual.scrollToIndex(at - from, { align: 'center' })
  }, [at, conversation, from, virtual])
  if (!conversation)
    return <Waiting error={error ?? (data ? new Error('There is no such conversation here.') : null)} />
  const { title, members, lost, page, kind, to } = conversation
  return (
    <>
      <PageHead title={title} words={`${membersOf(members)}; ${plural(to - from, 'message')}`}>
        {lost > 0 && (
          <NextLost from={from} to={to} go={(number) => virtual.scrollToIndex(number - from, { align: 'center' })} />
        )}
        {page && (
          <a className="button" href={linkTo(page)}>
            For printing
          </a>
        )}
        <a className="button" href={addressOf('kind', kind)}>
          All conversations
        </a>
      </PageHead>
      <Scrolled label={`Messages of ${title}`} ref={box}>
        <ol className="relative mx-auto max-w-3xl" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((row) => (
            <li
              key={row.key}
              ref={virtual.measureElement}
              data-index={row.index}
              className="absolute left-0 w-full pb-2"
              style={{ top: row.start }}
            >
              <Message number={from + row.index} isFirst={row.index === 0} chosen={from + row.index === at} />
            </li>
          ))}
        </ol>
      </Scrolled>
    </>
  )
}

/** Leads to the next message that had been lost, and from the last one to the first. */
function NextLost({ from, to, go }: { from: number; to: number; go: (number: number) => void }) {
  const client = useQueryClient()
  const [last, setLast] = useState(from - 1)
  const find = async () => {
    for (let step = 1; step <= to - from; step++) {
      const number = from + ((last - from + step) % (to - from))
      const item = await itemOf(client, number)
      if (!item || !LOST_STANDINGS.includes(item.standing)) continue
      setLast(number)
      return go(number)
    }
  }
  return (
    <button type="button" className="button" onClick={() => void find()}>
      Next that had been lost
    </button>
  )
}

function Message({ number, isFirst, chosen }: { number: number; isFirst: boolean; chosen: boolean }) {
  const { data: item } = useItem(number)
  const { data: before } = useItem(Math.max(0, number - 1))
  if (!item?.message) return <div className="h-[68px]" />
  const { message, when, utc, standing, text } = item
  const day = when?.slice(0, 10)
  const lost = LOST_STANDINGS.includes(standing)
  return (
    <>
      {(isFirst || day !== before?.when?.slice(0, 10)) && (
        <h2 className="py-3 text-center font-normal text-soft">{dayWords(day ?? '')}</h2>
      )}
      <div
        className={`w-fit max-w-[85%] rounded-lg border px-3 py-2 ${message.out ? 'ml-auto bg-wash' : 'bg-raised'} ${lost ? 'border-dashed border-soft' : 'border-rule'} ${chosen ? 'outline-2 outline-accent' : ''}`}
      >
        <p className="flex flex-wrap items-center gap-x-2 text-sm text-soft">
          {standing !== 'kept' && <StandingMark standing={standing} label />}
          <bdi>{message.who}</bdi>
          <time title={utc ? `${utc} UTC` : undefined}>{when?.slice(11) ?? 'no time'}</time>
        </p>
        {message.answers && (
          <a
            href={`#/conversation/${window.location.hash.split('/')[2]}/${message.answers.at}`}
            dir="auto"
            className="my-1 block border-l-2 border-accent pl-2 text-sm break-words text-soft"
          >
            {message.answers.who}: {message.answers.text}
          </a>
        )}
        <MessageFiles files={message.files} />
        <MessageWords
          fields={message.fields}
          text={text ?? null}
          words=""
          overwritten={standing === 'partial' && message.files.length === 0}
        />
        {item.note && <p className="mt-1 text-sm text-soft">Note: {item.note}</p>}
      </div>
    </>
  )
}
