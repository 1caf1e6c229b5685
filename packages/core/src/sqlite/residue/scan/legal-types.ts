import { CLASS } from '../evidence/profile.js'

// By serial type below 12; the two reserved ones are of no class.
const CLASS_OF_SMALL = Uint8Array.from([
  CLASS.null,
  ...Array<number>(6).fill(CLASS.integer),
  CLASS.real,
  CLASS.integer,
  CLASS.integer,
  0,
  0,
])

/** Where a walk over serial types ended. */
export interface Walked {
  end: number
}

/**
 * Counts the serial types from `at` on, `most` at the most, up to `end`, each of which must be of a class that its column
 * can hold: the first that of position `first`, and so on. -1: one is not, or is cut. Makes nothing, so that the search for
 * cells drops nearly all that is none before anything is made of it.
 */
export function countLegal(
  bytes: Uint8Array,
  at: number,
  end: number,
  legal: Uint8Array,
  first: number,
  most: number,
  out: Walked,
): number {
  let cursor = at
  let count = 0
  while (count < most && cursor < end) {
    let type = bytes[cursor++] as number
    if (type >= 0x80) {
      type &= 0x7f
      let more = 0x80
      for (let size = 1; more >= 0x80 && size < 9; size++) {
        if (cursor >= end) return -1
        more = bytes[cursor++] as number
        type = size === 8 ? type * 256 + more : type * 128 + (more & 0x7f)
      }
    }
    const kind = type < 12 ? (CLASS_OF_SMALL[type] as number) : type % 2 === 0 ? CLASS.blob : CLASS.text
    if (((legal[first + count] as number) & kind) === 0) return -1
    count++
  }
  out.end = cursor
  return count
}
