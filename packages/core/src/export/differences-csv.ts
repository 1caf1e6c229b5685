import type { CategoryId } from '../categories/registry.js'
import { CATEGORIES } from '../categories/table.js'
import type { NotCompared } from '../findings/restore-cost.js'
import { csvLine } from './csv.js'

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

const HEADS = [
  'category',
  'comes back',
  'bytes that come back',
  'is wiped',
  'bytes that are wiped',
  'goes back to an earlier state',
  'in both',
  'not compared, since',
]

/** What a restore would bring back and wipe, category by category, as CSV (RFC 4180); and what is not known of it. */
export const differencesCsv = (lines: readonly DifferenceLine[], notCompared: readonly NotCompared[]): string =>
  [
    csvLine(HEADS),
    ...lines.map((line) =>
      csvLine([
        CATEGORIES[line.category].label,
        line.onlyFirst,
        line.bytesFirst,
        line.onlySecond,
        line.bytesSecond,
        line.changed,
        line.both,
        null,
      ]),
    ),
    ...notCompared.map(({ category, why }) =>
      csvLine([CATEGORIES[category].label, null, null, null, null, null, null, why]),
    ),
  ].join('')

/** One item in which two sources differ. */
export interface DifferenceItem {
  category: CategoryId
  part: keyof typeof WORDS
  when: string | null
  title: string
  text: string | null
}

const WORDS = {
  'comes-back': 'comes back',
  wiped: 'is wiped',
  changed: 'goes back to an earlier state',
  both: 'in both',
}

export const ITEM_HEADS = csvLine(['category', 'what a restore does', 'when (UTC)', 'title', 'text'])

export const differenceItemLine = ({ category, part, when, title, text }: DifferenceItem): string =>
  csvLine([CATEGORIES[category].label, WORDS[part], when, title, text])
