import { useEffect, useRef } from 'react'
import { Moment } from '../../components/times'
import { useAsk } from '../../components/useAsk'
import type { BayAct, BayEvent } from '../../domain/bay-rules'
import { READ_STATE_WORDS } from '../../domain/labels'
import type { Wire } from '../../domain/wire'
import { tell } from './tell'

type Event = Wire<BayEvent>

const NEEDS_A_HAND: readonly BayAct[] = ['waits', 'failed', 'begun']

/** What rules did with devices lately, and what needs a hand. */
export function BayEvents({ events }: { events: Event[] }) {
  useTelling(events)
  if (events.length === 0) return null
  return (
    <section aria-label="Done by itself" className="mb-5 border-b border-rule pb-3">
      <h2 className="text-lg">Done by itself</h2>
      <ul className="mt-1 max-h-48 overflow-auto">
        {events.map((event) => (
          <li key={event.id} className="flex flex-wrap items-baseline gap-x-3 py-0.5">
            <span className="text-sm text-soft">
              <Moment at={event.cameAt} />
            </span>
            <span className="private font-semibold">{event.name ?? event.udid}</span>
            <span className={NEEDS_A_HAND.includes(event.act) ? 'text-partial' : ''}>{wordsOf(event)}</span>
            {event.jobId && (
              <a className="text-accent underline underline-offset-2" href={`/jobs/${event.jobId}/sources`}>
                Look at its job
              </a>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}

function wordsOf({ act, said, readState }: Event): string {
  // A process ended amid it: what was begun is not begun again.
  if (act === 'begun') return `${said} It was begun; if nothing comes of it, look at it by hand.`
  return readState ? `${said} Read ${READ_STATE_WORDS[readState]}.` : said
}

/** Sounds when something new is done or needs a hand, if the rules say so. */
function useTelling(events: Event[]): void {
  const { answer } = useAsk('GET /api/bay/rules', {})
  const told = useRef<Map<number, string>>(undefined)
  useEffect(() => {
    const before = told.current
    told.current = new Map(events.map((event) => [event.id, wordsOf(event)]))
    // What was there when the page was opened is no news.
    if (!before || !answer?.rules.tell) return
    const news = events.find((event) => before.get(event.id) !== wordsOf(event) && isWorthTelling(event))
    if (news) tell(news.name ?? news.udid, wordsOf(news))
  }, [events, answer])
}

const isWorthTelling = ({ act, readState }: Event) =>
  NEEDS_A_HAND.includes(act) || act === 'open-job' || ['done', 'gaps', 'failed', 'away'].includes(readState ?? '')
