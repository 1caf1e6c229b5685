import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useMemo, useRef } from 'react'
import { Scroller } from '../../components/Scroller'
import type { RowView } from '../../domain/contents'

const PER_LINE = 16
const LINE_HEIGHT = 20
const COLUMN_TINTS = 6

/** The bytes of a page, those of the chosen row tinted by column. */
export function HexView({ bytes, row }: { bytes: Uint8Array; row: RowView | undefined }) {
  const box = useRef<HTMLDivElement>(null)
  const lines = useVirtualizer({
    count: Math.ceil(bytes.length / PER_LINE),
    getScrollElement: () => box.current,
    estimateSize: () => LINE_HEIGHT,
    overscan: 8,
  })
  const tints = useMemo(() => tintsOf(bytes.length, row), [bytes, row])
  const start = row?.start
  useEffect(() => {
    if (start !== undefined) lines.scrollToIndex(Math.floor(start / PER_LINE), { align: 'center' })
  }, [start, lines])
  return (
    <Scroller ref={box} label="Bytes of the page" className="min-h-0 flex-1 overflow-auto bg-sunk">
      <div className="relative font-mono text-sm" style={{ height: lines.getTotalSize() }}>
        {lines.getVirtualItems().map((line) => (
          <HexLine key={line.key} bytes={bytes} tints={tints} at={line.index * PER_LINE} top={line.start} />
        ))}
      </div>
    </Scroller>
  )
}

/** For each byte of the page its tint: 0 none, 1 what precedes the row's values, from 2 on its columns in order. */
function tintsOf(size: number, row: RowView | undefined): Uint8Array {
  const tints = new Uint8Array(size)
  if (!row) return tints
  tints.fill(1, row.start, row.end)
  for (const [i, { start, end }] of row.columns.entries()) tints.fill(tintOf(i), start, end)
  return tints
}

/** The tint of a column by its position; the list of columns shows the same. */
export const tintOf = (position: number): number => 2 + (position % COLUMN_TINTS)

function HexLine({ bytes, tints, at, top }: { bytes: Uint8Array; tints: Uint8Array; at: number; top: number }) {
  const part = bytes.subarray(at, at + PER_LINE)
  return (
    <div className="absolute flex px-3 whitespace-pre" style={{ top, height: LINE_HEIGHT }}>
      <span className="mr-4 text-soft">{at.toString(16).padStart(4, '0')}</span>
      {[...part].map((byte, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: bytes have no other name than their place
        <span key={i} className={`hex-byte tint-${tints[at + i]}`}>
          {byte.toString(16).padStart(2, '0')}
        </span>
      ))}
      <span className="ml-4">
        {[...part].map((byte, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: as above
          <span key={i} className={`tint-${tints[at + i]}`}>
            {byte >= 32 && byte < 127 ? String.fromCharCode(byte) : '·'}
          </span>
        ))}
      </span>
    </div>
  )
}
