import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { fetchJson } from '../../components/api'
import type { ConversationLine, Facets, FindingLine } from '../../database/queries'
import type { Timeline } from '../../database/timeline'
import type { ExplainedFinding } from '../../services/findings'
import { type FindingsQuery, toAddress } from './query'

const addressOf = (jobId: number, query: FindingsQuery, more: Record<string, string>) =>
  `/api/jobs/${jobId}/findings${toAddress(query)}&${new URLSearchParams(more)}`

/** Findings of a query, page after page. */
export function useFindings(jobId: number, query: FindingsQuery, order: 'newest' | 'oldest' | 'match', enabled = true) {
  const pages = useInfiniteQuery({
    queryKey: ['findings', jobId, query, order],
    enabled,
    initialPageParam: null as FindingLine | null,
    queryFn: ({ pageParam, signal }) => {
      const after: Record<string, string> = pageParam
        ? {
            afterId: String(pageParam.id),
            afterScore: String(pageParam.matchScore),
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
  const asked = { ...query, standings: [], fromDay: null, toDay: null, layout: 'list' as const }
  return useQuery({
    queryKey: ['timeline', jobId, asked],
    queryFn: ({ signal }) => fetchJson<Timeline>(addressOf(jobId, asked, { view: 'timeline' }), signal),
    placeholderData: keepPreviousData,
  })
}
