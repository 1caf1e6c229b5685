import { type ReactNode, useEffect } from 'react'
import type { Choosing } from './choosing'
import { ItemMenu } from './ItemMenu'
import type { useFindings } from './useFindings'
import type { useListKeys } from './useListKeys'

/** Findings that come page by page. */
export type Results = Pick<
  ReturnType<typeof useFindings>,
  'lines' | 'hasNextPage' | 'isFetching' | 'isLoading' | 'error' | 'fetchNextPage'
>

interface Props {
  label: string
  results: Results
  /** Said where there are none. */
  empty: ReactNode
  choosing: Choosing
  keys: ReturnType<typeof useListKeys>
  /** Height of all results, shown or not, in pixels. */
  height: number
  className: string
  children: ReactNode
}

/** The scrolling box of a result view: a list box with results, or a word on why there are none. */
export function ResultBox({ label, empty, results, choosing, keys, height, className, children }: Props) {
  return (
    <div ref={keys.box} className={`min-h-0 min-w-0 flex-1 overflow-auto [scrollbar-gutter:stable] ${className}`}>
      {results.lines.length === 0 ? (
        empty
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
export function useNextPage(results: Results, lastShown: number, ahead: number): void {
  const { lines, hasNextPage, isFetching, fetchNextPage } = results
  const near = lastShown >= lines.length - ahead
  useEffect(() => {
    if (near && hasNextPage && !isFetching) void fetchNextPage()
  }, [near, hasNextPage, isFetching, fetchNextPage])
}
