import { useVirtualizer } from '@tanstack/react-virtual'
import { type ReactNode, useRef } from 'react'
import { Scrolled } from './Page'
import { useScrollPlace } from './useScrollPlace'

interface Props {
  label: string
  count: number
  /** Pixels that a row takes, as a guess until it is measured. */
  height: number
  row: (index: number) => ReactNode
  /** Stands above the rows, such as that they are loaded still. */
  above?: ReactNode
}

/** A list of any length, of which only the rows in view are there; it opens where it was left. */
export function VirtualList({ label, count, height, row, above }: Props) {
  const box = useRef<HTMLElement>(null)
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => box.current,
    estimateSize: () => height,
    overscan: 8,
  })
  useScrollPlace(box, count > 0)
  return (
    <Scrolled label={label} ref={box}>
      {above}
      <ul className="relative" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map(({ key, index, start }) => (
          <li
            key={key}
            ref={virtual.measureElement}
            data-index={index}
            className="absolute left-0 w-full border-b border-rule"
            style={{ top: start }}
          >
            {row(index)}
          </li>
        ))}
      </ul>
    </Scrolled>
  )
}
