import { isUtf8 } from 'node:buffer'
import { FormatError } from '../io/errors.js'
import type { TextEncoding } from './header.js'
import type { SqlValue } from './values.js'
import { exact, readVarint, type Varint } from './varint.js'

// SQLite allows 32,767 columns at the very most (SQLITE_MAX_COLUMN).
export const MAX_COLUMNS = 32_767

/** Body bytes of a serial type ("Database File Format", section 2.1); -1 for the two reserved ones and for what is no type at all. */
export function serialSize(serial: number): number {
  if (serial >= 12) return Math.floor((serial - 12) / 2)
  return SMALL_SIZES[serial] ?? -1
}
const SMALL_SIZES = [0, 1, 2, 3, 4, 6, 8, 8, 0, 0, -1, -1]

const varint: Varint = { value: 0, size: 0 }

/**
 * The values of a whole record, in stored order.
 * @throws FormatError when header and body do not fit the payload
 */
export function decodeRecord(payload: Uint8Array, encoding: TextEncoding): SqlValue[] {
  const record = new RecordView(encoding)
  record.open(payload)
  return record.values()
}

/** A record whose values are made one by one, when they are asked for: for walks that compare a column or two. */
export class RecordView {
  bytes: Uint8Array = new Uint8Array()
  count = 0
  readonly types: number[] = []
  /** Where each value begins in `bytes`. */
  readonly starts: number[] = []

  constructor(readonly encoding: TextEncoding) {}

  /** Turns to another record. @throws FormatError when header and body do not fit the payload */
  open(payload: Uint8Array): void {
    this.bytes = payload
    this.count = 0
    if (!readVarint(payload, 0, payload.length, varint))
      throw new FormatError('truncated', 0, 'record without a header')
    const headerEnd = varint.value
    if (headerEnd > payload.length || headerEnd < varint.size)
      throw new FormatError('bad-value', 0, `record header of ${headerEnd} bytes in a payload of ${payload.length}`)
    let body = headerEnd
    for (let at = varint.size; at < headerEnd; ) {
      if (!readVarint(payload, at, headerEnd, varint))
        throw new FormatError('truncated', at, 'record header ends early')
      at += varint.size
      const size = serialSize(varint.value)
      if (size < 0 || body + size > payload.length)
        throw new FormatError('truncated', at, `a value of serial type ${varint.value} does not fit its record`)
      this.types[this.count] = varint.value
      this.starts[this.count++] = body
      body += size
      if (this.count > MAX_COLUMNS) throw new FormatError('too-large', at, 'record with too many columns')
    }
  }

  /** The same for one that may be damaged. False: it is. */
  tryOpen(payload: Uint8Array): boolean {
    try {
      this.open(payload)
      return true
    } catch (thrown) {
      if (thrown instanceof FormatError) return false
      throw thrown
    }
  }

  /** The value at a position below `count`. */
  value(position: number): SqlValue {
    const type = this.types[position] as number
    return decodeValue(this.bytes, this.starts[position] as number, type, serialSize(type), this.encoding)
  }

  /** The bytes of a blob where they lie, valid until the record turns to another; undefined: the value is none. */
  blob(position: number): Uint8Array | undefined {
    const type = this.types[position] as number
    if (position >= this.count || type < 12 || type % 2 !== 0) return undefined
    const start = this.starts[position] as number
    return this.bytes.subarray(start, start + serialSize(type))
  }

  /** A copy of a text's bytes, or `known` itself where they are the same; undefined: the value is no text. */
  textBytes(position: number, known: Uint8Array): Uint8Array | undefined {
    const type = this.types[position] as number
    if (position < 0 || position >= this.count || type < 13 || type % 2 === 0) return undefined
    const start = this.starts[position] as number
    const size = serialSize(type)
    let same = size === known.length
    for (let i = 0; same && i < size; i++) same = this.bytes[start + i] === known[i]
    return same ? known : this.bytes.slice(start, start + size)
  }

  /** What `use` makes of a text's UTF-8, which lies in the bytes from `start` to `end`; undefined: the value is no text. */
  withText<T>(position: number, use: (bytes: Uint8Array, start: number, end: number) => T): T | undefined {
    const type = this.types[position] as number
    if (position < 0 || position >= this.count || type < 13 || type % 2 === 0) return undefined
    const start = this.starts[position] as number
    const size = serialSize(type)
    if (this.encoding === 'utf8') return use(this.bytes, start, start + size)
    const text = Buffer.from(decodeText(this.bytes, start, size, this.encoding))
    return use(text, 0, text.length)
  }

  values(): SqlValue[] {
    const values: SqlValue[] = []
    for (let position = 0; position < this.count; position++) values.push(this.value(position))
    return values
  }
}

/** One stored value; `size` is that of its serial type and lies inside `bytes`. */
export function decodeValue(
  bytes: Uint8Array,
  at: number,
  serial: number,
  size: number,
  encoding: TextEncoding,
): SqlValue {
  if (serial >= 12) return serial % 2 === 0 ? bytes.slice(at, at + size) : decodeText(bytes, at, size, encoding)
  if (serial === 0) return null
  if (serial >= 8) return serial - 8
  const view = new DataView(bytes.buffer, bytes.byteOffset + at, size)
  switch (serial) {
    case 1:
      return view.getInt8(0)
    case 2:
      return view.getInt16(0)
    case 3:
      return view.getInt8(0) * 65536 + view.getUint16(1)
    case 4:
      return view.getInt32(0)
    case 5:
      return view.getInt16(0) * 2 ** 32 + view.getUint32(2)
    case 6:
      return exact(view.getBigInt64(0))
    default:
      return view.getFloat64(0)
  }
}

/** A whole number in more bytes than it needs: SQLite stores none so. `bareConstants`: nor 0 and 1 in any. */
export function isTooLong(bytes: Uint8Array, at: number, type: number, bareConstants: boolean): boolean {
  if (type < 1 || type > 6) return false
  const first = bytes[at] as number
  if (type === 1) return bareConstants && first <= 1
  // The next shorter type has one byte less; of the two longest ones, two less.
  const spare = type < 5 ? 1 : 2
  for (let i = 0; i < spare; i++) if (bytes[at + i] !== first) return false
  const negative = (bytes[at + spare] as number) >= 0x80
  return first === (negative ? 0xff : 0)
}

/** Text of the database's encoding; invalid sequences, half surrogates too, become U+FFFD, as other readers show them. */
export const decodeText = (bytes: Uint8Array, at: number, size: number, encoding: TextEncoding): string =>
  textAsIs(bytes, at, size, encoding).toWellFormed()

/** The same with half surrogates as they stand. */
function textAsIs(bytes: Uint8Array, at: number, size: number, encoding: TextEncoding): string {
  const whole = bufferOf(bytes)
  const start = bytes.byteOffset + at
  if (encoding === 'utf8') return whole.toString('utf8', start, start + size)
  const end = start + (size & ~1)
  if (encoding === 'utf16le') return whole.toString('utf16le', start, end)
  return Buffer.from(whole.subarray(start, end)).swap16().toString('utf16le')
}

let lastMemory: ArrayBufferLike | undefined
let lastBuffer = Buffer.alloc(0)

/** All of the memory that bytes lie in; made once for the many texts of one block. */
function bufferOf({ buffer }: Uint8Array): Buffer {
  if (lastMemory === buffer) return lastBuffer
  lastMemory = buffer
  lastBuffer = Buffer.from(buffer as ArrayBuffer)
  return lastBuffer
}

/** True if the bytes are text of the encoding without a flaw: what a rebuilt value must be. */
export function isCleanText(bytes: Uint8Array, at: number, size: number, encoding: TextEncoding): boolean {
  if (encoding === 'utf8') return isUtf8(bytes.subarray(at, at + size))
  return size % 2 === 0 && textAsIs(bytes, at, size, encoding).isWellFormed()
}
