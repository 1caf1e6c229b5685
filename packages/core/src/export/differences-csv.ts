import { stringify } from 'csv-stringify/sync'
import { CATEGORIES } from '../categories/table.js'
import type { CategoryId } from '../categories/types.js'

/** One category of two sources, counted. */
export interface DifferenceLine {
  category: CategoryId
  onlyFirst: number
  onlySecond: number
  changed: number
  both: number
  bytesFirst: number
  bytesSecond: number
}

/** What a restore would bring back and wipe, category by category, as CSV (RFC 4180). */
export const differencesCsv = (lines: readonly DifferenceLine[]): string =>
  stringify(
    [
      [
        'category',
        'comes back',
        'bytes that come back',
        'is wiped',
        'bytes that are wiped',
        'goes back to an earlier state',
        'in both',
      ],
      ...lines.map((line) => [
        CATEGORIES[line.category].label,
        line.onlyFirst,
        line.bytesFirst,
        line.onlySecond,
        line.bytesSecond,
        line.changed,
        line.both,
      ]),
    ],
    { record_delimiter: '\r\n', escape_formulas: true },
  )
