import type { ByteSource } from '../../io/source.js'

/** How much of a carved file is there: all of it, its beginning, or something that only looks like it. */
export type Wholeness = 'whole' | 'cut' | 'doubtful'

/** A file found inside of other bytes. */
export interface Carved {
  mime: string
  /** File ending without a dot. */
  ending: string
  /** Byte offsets in what was searched; `end` is the first byte behind it. */
  start: number
  end: number
  wholeness: Wholeness
}

/** Bytes that are searched, of which a window is in memory. Reads behind the end give what is there. */
export interface Bytes {
  readonly size: number
  readonly source: ByteSource
  /** At most so many bytes from an offset on; fewer only at the end. Valid until the next call. */
  at(offset: number, count: number): Uint8Array
  /** Counts bytes that are looked at in the source itself. */
  spend(count: number): void
  /** Offset of a text (Latin-1) that begins within `limit` bytes from an offset on; undefined: there is none. */
  find(text: string, from: number, limit: number): number | undefined
}

/** Where a file ends, and how much of it is there. */
export interface Extent {
  end: number
  wholeness: Wholeness
  /** Its bytes of which nothing says that they are its own but that so many are: sound, the points of a picture. */
  unproven?: { start: number; end: number }
}

/** What a structure says of a file that begins at an offset; undefined: it is none. */
export type Walk = (bytes: Bytes, start: number) => Extent | undefined

/** A kind of file that is searched for. */
export interface Pattern {
  mime: string
  ending: string
  /** The bytes by which it is noticed, and how far behind its beginning they stand. */
  mark: Uint8Array
  markAt: number
  walk: Walk
  /** Which of several formats of one structure it is. */
  kindOf?: (bytes: Bytes, start: number, end: number) => { mime: string; ending: string }
}
