import type { CategoryId } from '../categories/registry.js'
import { CATEGORIES } from '../categories/table.js'
import type { TimedItem } from '../findings/item-time.js'
import type { NotCompared } from '../findings/restore-cost.js'
import { csvLine, timeCells, timeHeads } from './csv.js'

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
export interface DifferenceItem extends TimedItem {
  category: CategoryId
  part: keyof typeof WORDS
  title: string
  text: string | null
}

const WORDS = {
  'comes-back': 'comes back',
  wiped: 'is wiped',
  changed: 'goes back to an earlier state',
  both: 'in both',
}

/** `zone`: by whose clocks times are given (IANA). */
export const differenceItemHeads = (zone: string): string =>
  csvLine(['category', 'what a restore does', ...timeHeads(zone), 'title', 'text'])

export const differenceItemLine = (item: DifferenceItem, zone: string): string =>
  csvLine([CATEGORIES[item.category].label, WORDS[item.part], ...timeCells(item, zone), item.title, item.text])
