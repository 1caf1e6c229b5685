import {
  createSortedRowModel,
  rowSortingFeature,
  sortFn_basic,
  sortFn_text,
  tableFeatures,
} from '@tanstack/react-table'
import type { ReactNode } from 'react'

/** What tables have whose columns can be sorted. */
export const sortable = tableFeatures({
  rowSortingFeature,
  sortedRowModel: createSortedRowModel(),
  sortFns: { text: sortFn_text, basic: sortFn_basic },
})

type Sorted = false | 'asc' | 'desc'

export const ariaSort = (sorted: Sorted) => (sorted ? (`${sorted}ending` as const) : undefined)

const MARKS: Record<string, string> = { asc: '↑', desc: '↓', false: '' }

interface SortButtonProps {
  sorted: Sorted
  toggle: ((event: unknown) => void) | undefined
  children: ReactNode
}

/** A column's head, which sorts by it. */
export const SortButton = ({ sorted, toggle, children }: SortButtonProps) => (
  <button type="button" className="hover:text-ink" onClick={toggle}>
    {children} {MARKS[String(sorted)]}
  </button>
)

/** Room for the rows that are not on the page, since they are not seen. */
export const Gap = ({ height, columns }: { height: number; columns: number }) =>
  height > 0 ? (
    <tr>
      <td colSpan={columns} style={{ height, padding: 0, border: 0 }} />
    </tr>
  ) : null
