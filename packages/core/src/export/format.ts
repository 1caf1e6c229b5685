import type { Sighting } from '../categories/types.js'
import type { Standing } from '../findings/standing.js'
import type { ByteRange, ByteSource } from '../io/source.js'
import type { BagWriter } from './bag.js'
import type { Places } from './names.js'

/** One finding on its way into a package: its best copy, how it stands, and access to the source's files. */
export interface HandoverItem {
  sighting: Sighting
  standing: Standing
  /** Its source, as the owner is told of it; absent where all items come from one. */
  source?: ItemSource
  /** Undefined: the source does not hold the file. The format closes what it opened. */
  open(domain: string, path: string, range?: ByteRange): Promise<ByteSource | undefined>
  /** A saved password by its place; undefined: it does not open. */
  reveal(place: string): Promise<string | undefined>
}

/** Where an item comes from: its name and date for everybody, its place on the shop's computer for the shop alone. */
export interface ItemSource {
  name: string
  path: string
}

/** What a format writes to. Problems with single items are noted and shown in the report. */
export interface PackageContext {
  bag: BagWriter
  places: Places
  /** Files of equal content: once, and named where they come again; or each by itself. */
  duplicates: 'once' | 'each'
  note(problem: string): void
  /** Says that the content of the item at hand could not be written: it is listed as such, and not handed over. */
  missed(problem: string): void
  /** Says that the item at hand lies in this file of the package; the index names it. */
  placed(path: string): void
}

/** Takes the items of one category, conversation by conversation, and writes them in one format. */
export interface FormatWriter {
  add(item: HandoverItem): Promise<void>
  finish(): Promise<void>
}
