import { FormatError } from './errors.js'

/**
 * Bytes that can be read at any offset: a file, a decrypted file, a slice of memory. Never written to.
 * `read` gives exactly `end - start` bytes, or throws FormatError('truncated').
 */
export interface ByteSource {
  readonly size: number
  read(start: number, end: number): Promise<Uint8Array>
  /** The same into memory that is there already, to its last byte: where a source can do without memory of its own. */
  readInto?(target: Uint8Array, start: number): Promise<void>
  /** The same at once. Databases are read so: a walk over a million small pieces must not wait for each. */
  readSync(start: number, end: number): Uint8Array
  close(): Promise<void>
}

/** Throws unless 0 <= start <= end <= size, all whole numbers. */
export function checkRange(start: number, end: number, size: number): void {
  const whole = Number.isSafeInteger(start) && Number.isSafeInteger(end)
  if (!whole || start < 0 || end < start || end > size)
    throw new FormatError('truncated', start, `wanted bytes ${start} to ${end} of ${size}`)
}

/** Bytes that are in memory already. */
export class MemorySource implements ByteSource {
  readonly #bytes: Uint8Array
  constructor(bytes: Uint8Array) {
    this.#bytes = bytes
  }
  get size() {
    return this.#bytes.byteLength
  }
  async read(start: number, end: number) {
    return this.readSync(start, end)
  }
  readSync(start: number, end: number) {
    checkRange(start, end, this.size)
    return this.#bytes.subarray(start, end)
  }
  async close() {}
}

/** Up to `end - start` bytes: fewer where the source is shorter. */
export function readUpTo(source: ByteSource, start: number, end: number): Promise<Uint8Array> {
  return source.read(Math.min(start, source.size), Math.min(end, source.size))
}

export interface ByteRange {
  start: number
  end: number
}

/** A stretch of another source, which is closed with it. Bytes that the other one does not have are not in it. */
export class RangeSource implements ByteSource {
  readonly size: number
  readonly #start: number

  constructor(
    readonly inner: ByteSource,
    { start, end }: ByteRange,
  ) {
    this.#start = Math.min(Math.max(0, start), inner.size)
    this.size = Math.max(0, Math.min(end, inner.size) - this.#start)
  }

  read(start: number, end: number): Promise<Uint8Array> {
    checkRange(start, end, this.size)
    return this.inner.read(this.#start + start, this.#start + end)
  }

  readSync(start: number, end: number): Uint8Array {
    checkRange(start, end, this.size)
    return this.inner.readSync(this.#start + start, this.#start + end)
  }

  close(): Promise<void> {
    return this.inner.close()
  }
}

/** The part of a source that is meant; without a range all of it. */
export const partOf = (source: ByteSource, range: ByteRange | undefined): ByteSource =>
  range ? new RangeSource(source, range) : source

/**
 * A whole small source in memory.
 * @throws FormatError('too-large') when it is larger than `limit` bytes
 */
export async function readAll(source: ByteSource, limit: number): Promise<Uint8Array> {
  if (source.size > limit)
    throw new FormatError('too-large', 0, `${source.size} bytes where at most ${limit} make sense`)
  return source.read(0, source.size)
}

// Much larger pieces may be mapped anew by the system for each one, which costs several times what reading them does.
const CHUNK = 1 << 18

const AHEAD = 8

/** The source from `start` to `end` in order, piece by piece; the next ones are being read while one is worked on. */
export async function* chunksOf(source: ByteSource, start = 0, end = source.size): AsyncGenerator<Uint8Array> {
  const coming: Promise<Uint8Array>[] = []
  let at = start
  do {
    while (coming.length < AHEAD && at < end) {
      const chunk = source.read(at, Math.min(at + CHUNK, end))
      // Where the caller stops early nobody waits for it any more.
      chunk.catch(() => {})
      coming.push(chunk)
      at += CHUNK
    }
    const next = coming.shift()
    if (next) yield await next
  } while (coming.length > 0 || at < end)
}
