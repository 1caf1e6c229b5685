import { FormatError } from '../../io/errors.js'
import type { ByteSource } from '../../io/source.js'
import type { Bytes } from './types.js'

const WINDOW = 1 << 20
// A sector of today's disks.
const SECTOR = 4096
// Looking at a single byte costs as much as looking at some dozens.
const LEAST_COST = 64
const NOTHING = new Uint8Array()
// Bytes that are looked through for a text at once.
const STEP = 1 << 18
const LEAST_STEP = 4096
const MOST_PLACES = 100_000

/** What is known of a text: all of its places in a stretch of the bytes, in ascending order. */
interface Found {
  from: number
  until: number
  places: number[]
}

/**
 * A source read through one window that follows where it is looked at: a walk through a file costs few reads. Bytes that
 * are made so that walks look at the same places again and again end when `most` were looked at: there is nothing more
 * to see then.
 */
export class WindowedBytes implements Bytes {
  readonly size: number
  #seen = 0
  #from = 0
  #window: Uint8Array = NOTHING
  readonly #found = new Map<string, Found>()

  constructor(
    readonly source: ByteSource,
    readonly most = Number.POSITIVE_INFINITY,
    /** Told of stretches that the system does not give out; they count as zeros. */
    readonly unread: (start: number, end: number) => void = () => {},
  ) {
    this.size = source.size
  }

  /** True where not everything could be looked at. */
  get exhausted(): boolean {
    return this.#seen > this.most
  }

  spend(count: number): void {
    this.#seen += count
  }

  at(offset: number, count: number): Uint8Array {
    this.#seen += Math.max(count, LEAST_COST)
    if (this.exhausted) return NOTHING
    const end = Math.min(offset + count, this.size)
    if (offset >= end || offset < 0) return NOTHING
    if (offset < this.#from || end > this.#from + this.#window.length) {
      this.#from = offset
      this.#window = this.#read(offset, Math.min(this.size, Math.max(end, offset + WINDOW)))
    }
    return this.#window.subarray(offset - this.#from, end - this.#from)
  }

  /**
   * The next place of a text. What was looked through for it is remembered, so that many beginnings which look for the same
   * end look at each byte once.
   */
  find(text: string, from: number, limit: number): number | undefined {
    const wanted = Buffer.from(text, 'latin1')
    const past = this.#found.get(text)
    const known = past && past.from <= from && from <= past.until ? past : { from, until: from, places: [] }
    this.#found.set(text, known)
    for (;;) {
      const place = firstFrom(known.places, from)
      const left = Math.min(from + limit, this.size) - known.until
      if (place !== undefined || left <= 0 || this.exhausted)
        return place !== undefined && place < from + limit ? place : undefined
      if (known.places.length > MOST_PLACES) Object.assign(known, { from: known.until, places: [] })
      const step = Math.min(STEP, Math.max(left, LEAST_STEP))
      const piece = this.at(known.until, step + wanted.length - 1)
      const bytes = Buffer.from(piece.buffer, piece.byteOffset, piece.length)
      for (let at = bytes.indexOf(wanted); at >= 0; at = bytes.indexOf(wanted, at + 1))
        known.places.push(known.until + at)
      known.until += step
    }
  }

  /** A disk with a bad sector gives out what lies before and behind it. */
  #read(start: number, end: number): Uint8Array {
    try {
      return this.source.readSync(start, end)
    } catch (thrown) {
      if (!(thrown instanceof FormatError) || thrown.code !== 'unreadable') throw thrown
    }
    const bytes = new Uint8Array(end - start)
    for (let at = start; at < end; at += SECTOR) {
      const until = Math.min(end, at + SECTOR)
      try {
        bytes.set(this.source.readSync(at, until), at - start)
      } catch (thrown) {
        if (!(thrown instanceof FormatError) || thrown.code !== 'unreadable') throw thrown
        this.unread(at, until)
      }
    }
    return bytes
  }
}

/** The first of ascending places that is not before `from`. */
function firstFrom(places: readonly number[], from: number): number | undefined {
  let low = 0
  let high = places.length
  while (low < high) {
    const middle = (low + high) >>> 1
    if ((places[middle] as number) < from) low = middle + 1
    else high = middle
  }
  return places[low]
}

/** An unsigned number with its high byte first; undefined where the bytes end. */
export function bigEndian(bytes: Bytes, offset: number, length: number): number | undefined {
  const found = bytes.at(offset, length)
  if (found.length < length) return undefined
  let value = 0
  for (const byte of found) value = value * 256 + byte
  return value
}

/** The same with its low byte first. */
export function littleEndian(bytes: Bytes, offset: number, length: number): number | undefined {
  const found = bytes.at(offset, length)
  if (found.length < length) return undefined
  let value = 0
  for (let i = length - 1; i >= 0; i--) value = value * 256 + (found[i] as number)
  return value
}

/** Text of single bytes. */
export const latin = (bytes: Bytes, offset: number, length: number): string =>
  Buffer.from(bytes.at(offset, length)).toString('latin1')
