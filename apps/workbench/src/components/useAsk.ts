import { keepPreviousData, type QueryKey, useQuery } from '@tanstack/react-query'
import { ask, type Request } from '../api/client'
import type { AnswerGiven, NamesOf } from '../api/contracts'

interface Options {
  /** Milliseconds after which it is asked again; absent: never by itself. */
  every?: number | false
  /** False: it is not asked. */
  when?: boolean
}

/** By which an answer is kept, and can be replaced or asked for again. */
export const keyOf = <N extends NamesOf<'json'>>(name: N, request: Request<N>): QueryKey => [name, request]

/**
 * What an endpoint answers; asked again when the request changes, and until then the answer before stays. `failed`: words
 * for the user, empty while all is well.
 */
export function useAsk<N extends NamesOf<'json'>>(
  name: N,
  request: Request<N>,
  { every = false, when = true }: Options = {},
) {
  const { data, error, refetch } = useQuery<AnswerGiven<N>>({
    queryKey: keyOf(name, request),
    // What `ask` takes follows from its name; here the name is not known yet.
    queryFn: ({ signal }) =>
      (ask as (name: N, request: object) => Promise<AnswerGiven<N>>)(name, { ...request, signal }),
    enabled: when,
    refetchInterval: every,
    refetchIntervalInBackground: true,
    placeholderData: keepPreviousData as never,
  })
  return { answer: data ?? null, failed: error?.message ?? '', again: refetch }
}
