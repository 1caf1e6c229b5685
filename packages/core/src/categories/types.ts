import type { z } from 'zod'
import type { SourceEntry, SourceTree } from '../backup/types.js'
import type { Report } from '../io/errors.js'
import type { ByteRange } from '../io/source.js'
import type { PlaceKind } from '../sqlite/values.js'
import type { Profile } from './chats/profile.js'
import type { CategoryId, DefinedCategory } from './registry.js'

/** The passes of a read, in the order in which they run. */
export const PASSES = ['live', 'residue', 'carving'] as const
export type Pass = (typeof PASSES)[number]

/** What runs where nothing was chosen: carving looks at every byte of what nobody knows, and is asked for. */
export const USUAL_PASSES: readonly Pass[] = ['live', 'residue']

/** How an item stands in the one source where it was seen. */
export const CONDITIONS = ['live', 'binned', 'rebuilt', 'partial'] as const
export type Condition = (typeof CONDITIONS)[number]

export type Json = null | boolean | number | string | Json[] | { [key: string]: Json }

/** Content that lies in the source as a file. It is read from there whenever it is needed, and never copied. */
export interface ContentRef {
  name: string
  bytes: number
  mime: string
  /** Null until it has been computed. */
  sha256: string | null
  domain: string
  path: string
  /** Only these bytes of the file, the last one excluded; absent: all of them. */
  range?: ByteRange
}

/** Where a sighting comes from, exactly enough to look at the bytes. */
export interface Origin {
  domain: string
  path: string
  table: string | null
  /** As text where a number cannot hold it. */
  rowid: number | string | null
  place: PlaceKind | 'carved' | 'file'
  page: number | null
  offset: number | null
  /** Of a rebuilt row: what its confidence follows from. */
  reasons?: readonly string[]
}

/** One appearance of an item in one source. Absent values are null, never invented. */
export interface Sighting {
  category: CategoryId
  condition: Condition
  /** The item's own time, ISO 8601 in UTC. */
  when: string | null
  title: string
  text: string | null
  /** Documented per category in docs/categories.md. */
  fields: { [key: string]: Json }
  content: ContentRef | null
  origin: Origin
  /** Columns that were lost. */
  missing: string[]
  /** From 0 to 1. */
  confidence: number
}

/** A place where a store may lie; it moved between system versions. */
export interface StorePlace {
  domain: string
  path: string
}

export interface ReadContext {
  tree: SourceTree
  pass: Pass
  report: Report
  /** Mapping profiles of the technician's own, tried before those that ship with the product. */
  profiles?: readonly Profile[]
  /** Called now and then where a search takes long and finds nothing. What it throws ends the reading. */
  pulse?: () => Promise<void>
}

/** A kind of item: where its data lies, how it becomes sightings, how it is told apart, shown and handed over. */
export interface Category extends DefinedCategory {
  /** What the fields of its sightings hold, and no others. */
  fields: z.ZodObject
  /** Where its databases lie; the first that a source lists is read. */
  stores: readonly StorePlace[]
  /** True for the source's files that it is read from, its databases among them. */
  holds(entry: SourceEntry): boolean
  /** Sightings of one pass, always in the same order for the same source: reads go on by counting them. */
  read(context: ReadContext): AsyncIterable<Sighting>
  /** Text that is equal for sightings of the same item, and for no others. */
  identity(sighting: Sighting): string
  /**
   * Text that sightings of one item share even where one of them lost its own id. Null: too little is left to go by.
   * Absent: nothing but the id tells items of this category apart.
   */
  likeness?(sighting: Sighting): string | null
}
