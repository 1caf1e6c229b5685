import { LOST_STANDINGS } from '@lumbrin/core/findings/standing'
import { useEffect, useRef, useState } from 'react'
import type { FindingsQuery } from '../../domain/findings-query'
import type { Choosing } from './choosing'
import { useFindings } from './useFindings'

// Of a conversation of so many pages, those behind are reached by filtering alone.
const MOST_PAGES = 100

const isFiltered = ({ standings, matching, words, compared, fromDay, toDay }: FindingsQuery) =>
  standings.length > 0 || matching || words !== '' || compared !== null || fromDay !== null || toDay !== null

/** The messages of a conversation that are sought, and the ways to them: what the filters find, else what is lost. */
export function useJumps(
  jobId: number,
  query: FindingsQuery,
  results: ReturnType<typeof useFindings>,
  choosing: Choosing,
  reveal: (index: number) => void,
) {
  const filtered = isFiltered(query)
  const sought = useFindings(jobId, filtered ? query : { ...query, standings: [...LOST_STANDINGS] }, 'oldest')
  const [target, setTarget] = useState<number | null>(query.finding)
  const first = sought.lines[0]?.id
  // The conversation opens at the first, unless one was asked for.
  const opened = useRef(target !== null)
  useEffect(() => {
    if (opened.current || first === undefined) return
    opened.current = true
    setTarget(first)
  }, [first])
  const { lines, hasNextPage, isFetching, fetchNextPage } = results
  const index = target === null ? -1 : lines.findIndex(({ id }) => id === target)
  const pages = results.data?.pages.length ?? 0
  const show = useRef(reveal)
  show.current = reveal
  useEffect(() => {
    if (target === null) return
    if (index >= 0) {
      show.current(index)
      setTarget(null)
    } else if (hasNextPage && !isFetching && pages < MOST_PAGES) void fetchNextPage()
  }, [target, index, hasNextPage, isFetching, pages, fetchNextPage])
  const at = sought.lines.findIndex(({ id }) => id === choosing.active?.id)
  const go = (by: number) => {
    const next = sought.lines[at < 0 ? 0 : Math.max(0, Math.min(sought.lines.length - 1, at + by))]
    if (!next) return
    choosing.look(next)
    setTarget(next.id)
  }
  const what = filtered ? 'found' : 'lost'
  return { count: sought.lines.length, more: sought.hasNextPage, at: at < 0 ? null : at, what, go }
}
