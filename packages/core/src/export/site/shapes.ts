import type { CategoryId } from '../../categories/registry.js'
import type { Json } from '../../categories/types.js'
import type { Standing } from '../../findings/standing.js'

/*
 * What the pages of a package read. All items stand in one row: kind by kind, conversations together. An item is known by
 * its number in that row, a kind, a day and a conversation by where they begin and end. Each part is a script that hands
 * over one value: browsers load nothing else from a folder.
 */

/** So many items lie in one part. */
export const ITEMS_A_PART = 500

/** The function that each part calls with its own name and what it holds. */
export const PART_CALL = 'lumbrinPart'

/** Where an item, a kind or a conversation lies in the row: `to` is behind its last one. */
export interface Range {
  from: number
  to: number
}

export type Layout = 'gallery' | 'conversations' | 'list'

export interface SiteKind extends Range {
  id: CategoryId
  label: string
  layout: Layout
  lost: number
  /** Where its pages without scripts lie, from the package's top. */
  plain: string
}

/** How a package in parts is looked at as a whole. */
export const LAID_TOGETHER =
  'Files of other parts open once the contents of all part folders are copied into one folder; open the page there.'

/** The part `start`: what the first page shows, and how all else is found. */
export interface SiteStart {
  title: string
  writtenAt: string
  zone: string
  facts: [label: string, value: string][]
  kinds: SiteKind[]
  /** What each standing means, in the owner's words. */
  meaning: Record<Standing, string>
  notHad: readonly string[]
  problems: readonly string[]
  missed: number
  check: readonly string[]
  people: number
  places: number
  /** The first word of each part of the index of words. */
  words: string[]
}

/** The part `days-<kind>`: each day of a kind, as it comes, and where it begins; an empty day: no date. */
export type SiteDays = [day: string, from: number][]

/** The part `conversations`. */
export interface SiteConversation extends Range {
  kind: CategoryId
  title: string
  members: string[]
  lost: number
  /** First and last day; null: none has a date. */
  days: [first: string, last: string] | null
  /** Its page without scripts, from the package's top; null: there is none. */
  page: string | null
}

/** The part `people`; their items stand in the parts `people-<n>`, one list a person. */
export interface SitePerson {
  name: string
  addresses: string[]
  count: number
  lost: number
  part: number
  /** Which list of the part. */
  at: number
}

/** The part `places`. */
export type SitePlace = [number: number, longitude: number, latitude: number, lost: 0 | 1]

/** A part of the index of words: each word with the numbers of its items, each as the distance from the one before. */
export type SiteWords = [word: string, distances: number[]][]

export interface SiteFile {
  name: string
  mime: string
  /** From the package's top; null: it could not be had. */
  place: string | null
  preview?: string
}

/** What a message has beside its text. */
export interface SiteMessage {
  who: string
  out: boolean
  fields: { [key: string]: Json }
  files: SiteFile[]
  /** What it answers, where that is in the package. */
  answers?: { who: string; text: string; at: number }
}

/** An item as it is shown. What is absent is not known. */
export interface SiteItem {
  kind: CategoryId
  title: string
  standing: Standing
  text?: string
  /** By the clocks of the package's zone; a plain day for what lasts all of it. */
  when?: string
  utc?: string
  /** Its content: as it was, as browsers show it, and small. */
  file?: SiteFile
  large?: string
  /** More files of it, such as its page. */
  more?: string[]
  message?: SiteMessage
  facts?: [label: string, value: string][]
  place?: [longitude: number, latitude: number]
  note?: string
  /** Whose it is or with whom. */
  person?: string
  missed?: true
}
