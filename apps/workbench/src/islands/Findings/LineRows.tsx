import { useVirtualizer } from '@tanstack/react-virtual'
import type { ReactNode } from 'react'
import type { FindingLine } from '../../domain/finding'
import type { Choosing } from './choosing'
import { optionProps } from './option'
import { ResultBox, type Results, useNextPage } from './ResultBox'
import { useListKeys } from './useListKeys'

/** Pixels. */
const ROW = 34

interface Props {
  label: string
  results: Results
  /** Said where there are none. */
  empty: ReactNode
  choosing: Choosing
  /** Widths of the columns (grid-template-columns of CSS). */
  columns: string
  /** The cells of a row; the last column says whether it lies in the tray. */
  cells: (line: FindingLine) => ReactNode
}

/** Findings one a row, of which only those in view are on the page. */
export function LineRows({ label, results, empty, choosing, columns, cells }: Props) {
  const { lines } = results
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => keys.box.current,
    estimateSize: () => ROW,
    overscan: 12,
  })
  const keys = useListKeys(lines, 1, choosing, (index) => virtual.scrollToIndex(index))
  const shown = virtual.getVirtualItems()
  useNextPage(results, shown.at(-1)?.index ?? 0, 30)
  return (
    <ResultBox
      label={label}
      empty={empty}
      results={results}
      choosing={choosing}
      keys={keys}
      height={virtual.getTotalSize()}
      className="px-4 py-1"
    >
      {shown.map((item) => {
        const line = lines[item.index]
        if (!line) return null
        return (
          <div
            key={line.id}
            role="option"
            tabIndex={-1}
            aria-selected={line.inTray}
            {...optionProps(line, lines, choosing)}
            style={{ top: item.start, height: ROW, gridTemplateColumns: columns }}
            className={`absolute right-0 left-0 grid items-center gap-3 border-b border-rule px-1 ${line.id === choosing.active?.id ? 'bg-wash' : ''}`}
          >
            {cells(line)}
            <span className="text-sm font-semibold text-accent">{line.inTray ? 'in tray' : ''}</span>
          </div>
        )
      })}
    </ResultBox>
  )
}
