import { type ReactNode, useEffect } from 'react'
import type { FindingsQuery } from '../../domain/findings-query'
import type { Choosing } from './choosing'
import { EmptyResults } from './EmptyResults'
import { ItemMenu } from './ItemMenu'
import type { useFindings } from './useFindings'
import type { useListKeys } from './useListKeys'

interface Props {
  label: string
  query: FindingsQuery
  results: ReturnType<typeof useFindings>
  choosing: Choosing
  keys: ReturnType<typeof useListKeys>
  /** Height of all results, shown or not, in pixels. */
  height: number
  className: string
  children: ReactNode
}

/** The scrolling box of a result view: a list box with results, or a word on why there are none. */
export function ResultBox({ label, query, results, choosing, keys, height, className, children }: Props) {
  return (
    <div ref={keys.box} className={`min-h-0 min-w-0 flex-1 overflow-auto [scrollbar-gutter:stable] ${className}`}>
      {results.lines.length === 0 ? (
        <EmptyResults loading={results.isLoading} error={results.error} query={query} />
      ) : (
        <ItemMenu lines={results.lines} choosing={choosing}>
          <div {...keys.props} role="listbox" aria-label={label} className="relative" style={{ height }}>
            {children}
          </div>
        </ItemMenu>
      )}
    </div>
  )
}

/** Fetches the next page when the results shown come near the end of those that are there. */
export function useNextPage(results: ReturnType<typeof useFindings>, lastShown: number, ahead: number): void {
  const { lines, hasNextPage, isFetching, fetchNextPage } = results
  const near = lastShown >= lines.length - ahead
  useEffect(() => {
    if (near && hasNextPage && !isFetching) void fetchNextPage()
  }, [near, hasNextPage, isFetching, fetchNextPage])
}
