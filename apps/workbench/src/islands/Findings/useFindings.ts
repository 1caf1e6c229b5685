import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query'
import { ask } from '../../api/client'
import type { FindingLine } from '../../domain/finding'
import { type FindingsQuery, filterOf, isLastPage, type Order } from '../../domain/findings-query'

/** Findings of a query, page after page. */
export function useFindings(job: number, query: FindingsQuery, order: Order, enabled = true) {
  const filter = filterOf(query)
  const pages = useInfiniteQuery({
    queryKey: ['findings', job, filter, order],
    enabled,
    initialPageParam: null as FindingLine | null,
    queryFn: ({ pageParam, signal }) =>
      ask('GET /api/jobs/{job}/findings', { path: { job }, query: { ...filter, order, ...behind(pageParam) }, signal }),
    getNextPageParam: (page) => (isLastPage(page.length, query.words) ? undefined : page.at(-1)),
    placeholderData: keepPreviousData,
  })
  return { ...pages, lines: pages.data?.pages.flat() ?? [] }
}

/** The next page begins behind the last line of the one before. */
const behind = (line: FindingLine | null) =>
  line && {
    afterId: line.id,
    afterScore: line.matchScore,
    afterTitle: line.title,
    afterBytes: line.bytes,
    afterWhen: line.when,
  }

/** Counts by category and standing for the words searched. */
export function useFacets(job: number, words: string) {
  return useQuery({
    queryKey: ['facets', job, words],
    queryFn: ({ signal }) => ask('GET /api/jobs/{job}/facets', { path: { job }, query: { words }, signal }),
    placeholderData: keepPreviousData,
  })
}

export function useConversations(job: number, query: FindingsQuery, enabled: boolean) {
  const filter = filterOf({ ...query, conversation: null })
  return useQuery({
    queryKey: ['conversations', job, filter],
    enabled,
    queryFn: ({ signal }) => ask('GET /api/jobs/{job}/conversations', { path: { job }, query: filter, signal }),
    placeholderData: keepPreviousData,
  })
}

const findingQuery = (id: number) => ({
  queryKey: ['finding', id],
  queryFn: ({ signal }: { signal: AbortSignal }) =>
    ask('GET /api/findings/{finding}', { path: { finding: id }, signal }),
})

export function useFinding(id: number | null) {
  return useQuery({ ...findingQuery(id ?? 0), enabled: id !== null })
}

/** The findings of a query over time. */
export function useTimeline(job: number, query: FindingsQuery) {
  const filter = filterOf({ ...query, standings: [], fromDay: null, toDay: null })
  return useQuery({
    queryKey: ['timeline', job, filter],
    queryFn: ({ signal }) => ask('GET /api/jobs/{job}/timeline', { path: { job }, query: filter, signal }),
    placeholderData: keepPreviousData,
  })
}

/** Where the findings of a query were made. */
export function usePoints(job: number, query: FindingsQuery) {
  const filter = filterOf(query)
  return useQuery({
    queryKey: ['points', job, filter],
    queryFn: ({ signal }) => ask('GET /api/jobs/{job}/points', { path: { job }, query: filter, signal }),
    placeholderData: keepPreviousData,
  })
}

/** The days of a month on which there are findings of a query. */
export function useDays(job: number, query: FindingsQuery, month: string) {
  const filter = filterOf({ ...query, fromDay: null, toDay: null })
  return useQuery({
    queryKey: ['days', job, filter, month],
    queryFn: ({ signal }) => ask('GET /api/jobs/{job}/days', { path: { job }, query: { ...filter, month }, signal }),
    placeholderData: keepPreviousData,
  })
}

/** Fetches a finding of which only the id is known, and shows it. */
export function useFindingLine(show: (line: FindingLine) => void): (id: number) => void {
  const client = useQueryClient()
  return (id) => void client.fetchQuery(findingQuery(id)).then(show, () => {})
}

/** What a search of this category may ask for, as far as it finds something. */
export function useSuggestions(job: number, { category }: FindingsQuery) {
  return useQuery({
    queryKey: ['suggestions', job, category],
    queryFn: ({ signal }) => ask('GET /api/jobs/{job}/suggestions', { path: { job }, query: { category }, signal }),
  })
}
