import { keepPreviousData, type QueryKey, useQuery } from '@tanstack/react-query'
import { ask, type Request } from '../api/client'
import type { AnswerGiven, NamesOf } from '../api/contracts'
import { useHydrated } from './useHydrated'

interface Options<N extends NamesOf<'json'>> {
  /** Milliseconds after which it is asked again; absent: never by itself. */
  every?: number | false
  /** False: it is not asked. */
  when?: boolean
  /** False: while something else is asked, nothing is shown of what was answered before. */
  keep?: boolean
  /** What came with the page, before anything was asked. */
  first?: AnswerGiven<N>
}

/** By which an answer is kept, and can be replaced or asked for again. */
export const keyOf = <N extends NamesOf<'json'>>(name: N, request: Request<N>): QueryKey => [name, request]

/** What came with the page needs not be asked for again at once. */
const FRESH_MS = 5000

/**
 * What an endpoint answers; asked again when the request changes, and until then the answer before stays. `failed`: words
 * for the user, empty while all is well.
 */
export function useAsk<N extends NamesOf<'json'>>(
  name: N,
  request: Request<N>,
  { every = false, when = true, keep = true, first }: Options<N> = {},
) {
  const { data, error, refetch } = useQuery<AnswerGiven<N>>({
    queryKey: keyOf(name, request),
    // What `ask` takes follows from its name; here the name is not known yet.
    queryFn: ({ signal }) =>
      (ask as (name: N, request: object) => Promise<AnswerGiven<N>>)(name, { ...request, signal }),
    enabled: when,
    refetchInterval: every,
    refetchIntervalInBackground: true,
    ...(keep ? { placeholderData: keepPreviousData as never } : {}),
    ...(first === undefined ? {} : { initialData: first, staleTime: FRESH_MS }),
  })
  const answer = useHydrated() ? data : first
  return { answer: answer ?? null, failed: error?.message ?? '', again: refetch }
}
