import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query'
import { fetchJson } from '../../components/api'
import type { Day } from '../../database/days'
import type { Points } from '../../database/points'
import type { ConversationLine, Facets, FindingLine, Order } from '../../database/queries'
import type { Suggestions } from '../../database/suggestions'
import type { Timeline } from '../../database/timeline'
import type { ExplainedFinding } from '../../services/findings'
import { type FindingsQuery, toAddress } from './query'

// How findings are laid out does not change which they are.
const LOOKS = { layout: null, month: null, order: 'newest', tiles: 'medium', folding: false } as const

const addressOf = (jobId: number, query: FindingsQuery, more: Record<string, string>) =>
  `/api/jobs/${jobId}/findings${toAddress({ ...query, ...LOOKS })}&${new URLSearchParams(more)}`

/** Findings of a query, page after page. */
export function useFindings(jobId: number, query: FindingsQuery, order: Order, enabled = true) {
  const pages = useInfiniteQuery({
    queryKey: ['findings', jobId, { ...query, ...LOOKS }, order],
    enabled,
    initialPageParam: null as FindingLine | null,
    queryFn: ({ pageParam, signal }) => {
      const after: Record<string, string> = pageParam
        ? {
            afterId: String(pageParam.id),
            afterScore: String(pageParam.matchScore),
            afterTitle: pageParam.title,
            afterBytes: String(pageParam.bytes),
            ...(pageParam.when ? { afterWhen: pageParam.when } : {}),
          }
        : {}
      return fetchJson<FindingLine[]>(addressOf(jobId, query, { order, ...after }), signal)
    },
    getNextPageParam: (page) => (page.length < 200 ? undefined : page.at(-1)),
    placeholderData: keepPreviousData,
  })
  return { ...pages, lines: pages.data?.pages.flat() ?? [] }
}

/** Counts by category and standing for the words searched. */
export function useFacets(jobId: number, words: string) {
  return useQuery({
    queryKey: ['facets', jobId, words],
    queryFn: ({ signal }) =>
      fetchJson<Facets>(`/api/jobs/${jobId}/findings?${new URLSearchParams({ view: 'facets', words })}`, signal),
    placeholderData: keepPreviousData,
  })
}

export function useConversations(jobId: number, query: FindingsQuery, enabled: boolean) {
  return useQuery({
    queryKey: [
      'conversations',
      jobId,
      query.category,
      query.standings,
      query.words,
      query.matching,
      query.compared,
      query.fromDay,
      query.toDay,
    ],
    enabled,
    queryFn: ({ signal }) =>
      fetchJson<ConversationLine[]>(
        addressOf(jobId, { ...query, conversation: null }, { view: 'conversations' }),
        signal,
      ),
    placeholderData: keepPreviousData,
  })
}

export function useFinding(id: number | null) {
  return useQuery({
    queryKey: ['finding', id],
    enabled: id !== null,
    queryFn: ({ signal }) => fetchJson<ExplainedFinding>(`/api/findings/${id}`, signal),
  })
}

/** The findings of a query over time. */
export function useTimeline(jobId: number, query: FindingsQuery) {
  const asked = { ...query, ...LOOKS, standings: [], fromDay: null, toDay: null }
  return useQuery({
    queryKey: ['timeline', jobId, asked],
    queryFn: ({ signal }) => fetchJson<Timeline>(addressOf(jobId, asked, { view: 'timeline' }), signal),
    placeholderData: keepPreviousData,
  })
}

/** Where the findings of a query were made. */
export function usePoints(jobId: number, query: FindingsQuery) {
  const asked = { ...query, ...LOOKS }
  return useQuery({
    queryKey: ['points', jobId, asked],
    queryFn: ({ signal }) => fetchJson<Points>(addressOf(jobId, asked, { view: 'points' }), signal),
    placeholderData: keepPreviousData,
  })
}

/** The days of a month on which there are findings of a query. */
export function useDays(jobId: number, query: FindingsQuery, month: string) {
  const asked = { ...query, ...LOOKS, fromDay: null, toDay: null }
  return useQuery({
    queryKey: ['days', jobId, asked, month],
    queryFn: ({ signal }) => fetchJson<Day[]>(addressOf(jobId, asked, { view: 'days', month }), signal),
    placeholderData: keepPreviousData,
  })
}

/** Fetches a finding of which only the id is known, and shows it. */
export function useFindingLine(show: (line: FindingLine) => void): (id: number) => void {
  const client = useQueryClient()
  return (id) =>
    void client
      .fetchQuery({
        queryKey: ['finding', id],
        queryFn: ({ signal }) => fetchJson<ExplainedFinding>(`/api/findings/${id}`, signal),
      })
      .then(show, () => {})
}

/** What a search of this category may ask for, as far as it finds something. */
export function useSuggestions(jobId: number, query: FindingsQuery) {
  return useQuery({
    queryKey: ['suggestions', jobId, query.category],
    queryFn: ({ signal }) =>
      fetchJson<Suggestions>(
        `/api/jobs/${jobId}/findings?${new URLSearchParams({ view: 'suggestions', category: query.category })}`,
        signal,
      ),
  })
}
