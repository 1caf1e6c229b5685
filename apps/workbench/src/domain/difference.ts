import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { TimedItem } from '@lumbrin/core/findings/item-time'
import type { NotCompared } from '@lumbrin/core/findings/restore-cost'

/** What a restore of one source onto another does with an item. */
export const COMPARED_PARTS = ['comes-back', 'wiped', 'changed', 'both'] as const
export type ComparedPart = (typeof COMPARED_PARTS)[number]

/** Two sources and one part of what tells them apart. */
export interface Compared {
  first: number
  second: number
  part: ComparedPart
}

/** An item that one of two sources shows and the other does not. */
export interface Example {
  id: number
  title: string
  text: string | null
  when: string | null
}

/** How two sources differ in one category, by what each shows live. */
export interface Difference {
  category: CategoryId
  onlyFirst: number
  onlySecond: number
  both: number
  /** Of those in both: what they say differs. */
  changed: number
  bytesFirst: number
  bytesSecond: number
  examplesFirst: Example[]
  examplesSecond: Example[]
}

/** What a restore of one source onto the state of another would do, and what is not known of it. */
export interface RestoreCost {
  lines: Difference[]
  notCompared: NotCompared[]
}

/** One item of a comparison, as its table lists it. */
export interface ComparedItem extends Example, TimedItem {
  category: CategoryId
  part: ComparedPart
}
