import { itemDay, itemTime } from '@lumbrin/core/findings/item-time'
import { LOST_STANDINGS } from '@lumbrin/core/findings/standing'
import { useVirtualizer } from '@tanstack/react-virtual'
import { attachmentAddress } from '../../components/addresses'
import { MessageWords } from '../../components/MessageWords'
import { StandingMark } from '../../components/StandingMark'
import type { FindingLine } from '../../domain/finding'
import type { FindingsQuery } from '../../domain/findings-query'
import type { Choosing } from './choosing'
import { EmptyResults } from './EmptyResults'
import { Jumps } from './Jumps'
import { optionProps } from './option'
import { ResultBox, useNextPage } from './ResultBox'
import { useFindings } from './useFindings'
import { useJumps } from './useJumps'
import { useListKeys } from './useListKeys'

interface Props {
  jobId: number
  query: FindingsQuery
  title: string
  choosing: Choosing
}

/**
 * One conversation whole, oldest message first, with a line for each new day. It opens at the first message that the
 * filters find, or that is lost; the others are jumped to.
 */
export function Thread({ jobId, query, title, choosing }: Props) {
  const whole = { ...query, standings: [], matching: false, words: '', compared: null, fromDay: null, toDay: null }
  const results = useFindings(jobId, whole, 'oldest')
  const { lines, hasNextPage } = results
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => keys.box.current,
    estimateSize: () => 64,
    overscan: 8,
    getItemKey: (index) => lines[index]?.id ?? index,
  })
  const keys = useListKeys(lines, 1, choosing, (index) => virtual.scrollToIndex(index))
  const shown = virtual.getVirtualItems()
  useNextPage(results, shown.at(-1)?.index ?? 0, 30)
  const jumps = useJumps(jobId, query, results, choosing, (index) => virtual.scrollToIndex(index, { align: 'center' }))
  const allIn = !hasNextPage && lines.length > 0 && lines.every((line) => line.inTray)
  return (
    <section aria-label={title} className="flex min-h-0 min-w-0 flex-col">
      <header className="flex items-center gap-3 border-b border-rule px-4 py-1.5">
        <h2 className="private min-w-0 truncate">{title}</h2>
        <Jumps {...jumps} />
        <button
          type="button"
          className="button ml-auto"
          onClick={() => choosing.all(whole, !allIn)}
          disabled={lines.length === 0}
        >
          {allIn ? 'Take the conversation out of the tray' : 'Put the conversation in the tray'}
        </button>
      </header>
      <ResultBox
        label={`Messages of ${title}`}
        empty={<EmptyResults loading={results.isLoading} error={results.error} query={query} />}
        results={results}
        choosing={choosing}
        keys={keys}
        height={virtual.getTotalSize()}
        className="px-4 py-2"
      >
        {shown.map((item) => {
          const line = lines[item.index]
          if (!line) return null
          const day = itemDay(line, query.zone)
          const before = lines[item.index - 1]
          const newDay = !before || day !== itemDay(before, query.zone)
          return (
            <div
              key={item.key}
              data-index={item.index}
              ref={virtual.measureElement}
              role="presentation"
              className="absolute right-0 left-0 pb-1.5"
              style={{ top: item.start }}
            >
              {newDay && (
                <div role="presentation" className="py-2 text-center text-sm text-soft">
                  {day ?? 'no date'}
                </div>
              )}
              <Bubble line={line} lines={lines} words={query.words} choosing={choosing} />
            </div>
          )
        })}
      </ResultBox>
    </section>
  )
}

type Attachment = { name: string; mime: string; path: string | null }

interface BubbleProps {
  line: FindingLine
  lines: FindingLine[]
  words: string
  choosing: Choosing
}

function Bubble({ line, lines, words, choosing }: BubbleProps) {
  const outgoing = line.fields.direction === 'out'
  const active = line.id === choosing.active?.id
  const attachments = (Array.isArray(line.fields.attachments) ? line.fields.attachments : []) as Attachment[]
  const lost = LOST_STANDINGS.includes(line.standing)
  return (
    <div
      role="option"
      tabIndex={-1}
      aria-selected={line.inTray}
      {...optionProps(line, lines, choosing)}
      className={`w-fit max-w-[80%] rounded-lg border px-3 py-1.5 ${outgoing ? 'ml-auto bg-wash' : 'bg-raised'} ${lost ? 'border-dashed border-soft' : 'border-rule'} ${active ? 'outline-2 outline-accent' : ''}`}
    >
      <div className="flex items-center gap-2 text-sm text-soft">
        {lost && <StandingMark standing={line.standing} />}
        <span>
          {outgoing ? 'Owner' : String(line.fields.senderName ?? line.fields.sender ?? 'sender unknown')} ·{' '}
          <span title={line.when === null ? undefined : `${itemTime(line, 'UTC')} UTC`}>
            {itemTime(line, choosing.zone)?.slice(11) ?? 'no time'}
          </span>
        </span>
        {line.inTray && <span className="font-semibold text-accent">in tray</span>}
      </div>
      {attachments.map((attachment, i) =>
        attachment.path && attachment.mime.startsWith('image/') ? (
          <img
            key={attachment.path}
            src={attachmentAddress(line.id, i)}
            alt={attachment.name}
            loading="lazy"
            className="my-1 h-36 rounded-sm object-cover"
          />
        ) : (
          <div key={attachment.name} className="my-1 text-soft">
            {attachment.name}
            {attachment.path ? '' : ' (not in the source)'}
          </div>
        ),
      )}
      <MessageWords
        fields={line.fields}
        text={line.text}
        words={words}
        overwritten={attachments.length === 0 && line.standing === 'partial'}
      />
      {typeof line.fields.replyTo === 'string' && <p className="text-sm text-soft">an answer to an earlier message</p>}
    </div>
  )
}
