import type { CategoryId } from '@lumbrin/core/categories/registry'
import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query'
import { ask } from '../../api/client'
import { useAsk } from '../../components/useAsk'
import type { FindingLine } from '../../domain/finding'
import { PERSON_PAGE } from '../../domain/whom'

/** Whose findings are shown, and which of them. */
export interface PersonQuery {
  name: string
  /** Only what is gone from the device. */
  lost: boolean
  /** Null: of all kinds. */
  category: CategoryId | null
}

/** Everything with one person, counted. */
export const usePerson = (job: number, name: string) =>
  useAsk('GET /api/jobs/{job}/person', { path: { job }, query: { name } }, { keep: true })

/** A person's findings, page after page. */
export function usePersonFindings(job: number, { name, lost, category }: PersonQuery) {
  const pages = useInfiniteQuery({
    queryKey: ['findings', job, 'person', name, lost, category],
    initialPageParam: null as FindingLine | null,
    queryFn: ({ pageParam, signal }) => {
      const behind = pageParam && { afterId: pageParam.id, afterWhen: pageParam.when }
      const query = { name, lost: String(lost), category, ...behind }
      return ask('GET /api/jobs/{job}/person/findings', { path: { job }, query, signal })
    },
    getNextPageParam: (page) => (page.length < PERSON_PAGE ? undefined : page.at(-1)),
    placeholderData: keepPreviousData,
  })
  return { ...pages, lines: pages.data?.pages.flat() ?? [] }
}
