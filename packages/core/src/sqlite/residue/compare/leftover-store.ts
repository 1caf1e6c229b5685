import type { Table } from '../../database.js'
import type { PlaceKind, SqlValue } from '../../values.js'
import type { Leftover } from './leftover.js'

const CHUNK = 1 << 20
const PLACES: readonly PlaceKind[] = ['live', 'freelist', 'freeblock', 'gap', 'wal', 'journal', 'dropped', 'other']

/** What a value is; its bytes stand behind that. */
const TAG = { lost: 0, null: 1, number: 2, integer: 3, text: 4, blob: 5 } as const
const FLAG = { named: 1, gone: 2, whole: 4, mayBeEntry: 8 } as const
const FLAGS = Object.keys(FLAG) as (keyof typeof FLAG)[]
const LONGEST_NUMBER = 9
// Flags, place (kind, page, offset), confidence, two lists by their numbers, rowid, count of values.
const HEAD = 1 + 1 + 4 + 8 + 1 + 4 + 4 + LONGEST_NUMBER + 2

type Value = SqlValue | undefined

/**
 * Leftovers of one table that wait until all others are known, kept as bytes: some 40 each beside those of their values,
 * where objects would take a thousand.
 */
export class LeftoverStore {
  readonly #chunks: Buffer[] = []
  readonly #chunkOf: number[] = []
  readonly #offsets: number[] = []
  #free = CHUNK
  /** Lists of reasons and of tables that fit: there are few different ones. */
  readonly #lists: (readonly string[])[] = []
  readonly #numbers = new Map<string, number>()

  constructor(readonly table: Table) {}

  get count(): number {
    return this.#offsets.length
  }

  /** Keeps one. @returns the bytes that it takes */
  add(leftover: Leftover): number {
    const { named, gone, whole, mayBeEntry, place, confidence, reasons, candidates, rowid, values } = leftover
    const size = HEAD + values.reduce((sum: number, value) => sum + sizeOf(value), 0)
    const { chunk, start } = this.#take(size)
    const flags = { named, gone, whole, mayBeEntry }
    let at = chunk.writeUInt8(
      FLAGS.reduce((sum, flag) => sum | (flags[flag] ? FLAG[flag] : 0), 0),
      start,
    )
    at = chunk.writeUInt8(PLACES.indexOf(place.kind), at)
    at = chunk.writeUInt32LE(place.page, at)
    at = chunk.writeDoubleLE(place.offset, at)
    // In hundredths, as it is told.
    at = chunk.writeUInt8(Math.round(confidence * 100), at)
    at = chunk.writeUInt32LE(this.#number(reasons), at)
    at = chunk.writeUInt32LE(this.#number(candidates), at)
    write(chunk, at, rowid)
    at = chunk.writeUInt16LE(values.length, at + LONGEST_NUMBER)
    for (const value of values) at = write(chunk, at, value)
    return size
  }

  /** The one that was kept as number `id`, from 0. */
  at(id: number): Leftover {
    const chunk = this.#chunks[this.#chunkOf[id] as number] as Buffer
    const start = this.#offsets[id] as number
    const flags = chunk.readUInt8(start)
    const rowidAt = start + HEAD - LONGEST_NUMBER - 2
    return {
      table: this.table,
      named: (flags & FLAG.named) !== 0,
      gone: (flags & FLAG.gone) !== 0,
      whole: (flags & FLAG.whole) !== 0,
      mayBeEntry: (flags & FLAG.mayBeEntry) !== 0,
      place: {
        kind: PLACES[chunk.readUInt8(start + 1)] as PlaceKind,
        page: chunk.readUInt32LE(start + 2),
        offset: chunk.readDoubleLE(start + 6),
      },
      confidence: chunk.readUInt8(start + 14) / 100,
      reasons: this.#lists[chunk.readUInt32LE(start + 15)] as readonly string[],
      candidates: [...(this.#lists[chunk.readUInt32LE(start + 19)] as readonly string[])],
      rowid: read(chunk, rowidAt).value as Leftover['rowid'],
      values: valuesAt(chunk, start + HEAD, chunk.readUInt16LE(start + HEAD - 2)),
    }
  }

  #take(size: number): { chunk: Buffer; start: number } {
    if (this.#free + size > (this.#chunks.at(-1)?.length ?? 0)) {
      this.#chunks.push(Buffer.allocUnsafe(Math.max(CHUNK, size)))
      this.#free = 0
    }
    const start = this.#free
    this.#free += size
    this.#chunkOf.push(this.#chunks.length - 1)
    this.#offsets.push(start)
    return { chunk: this.#chunks.at(-1) as Buffer, start }
  }

  #number(list: readonly string[]): number {
    const key = list.join('\0')
    const known = this.#numbers.get(key)
    if (known !== undefined) return known
    this.#numbers.set(key, this.#lists.length)
    return this.#lists.push(list) - 1
  }
}

function sizeOf(value: Value): number {
  if (value === undefined || value === null) return 1
  if (typeof value === 'string') return 5 + Buffer.byteLength(value)
  return value instanceof Uint8Array ? 5 + value.length : LONGEST_NUMBER
}

/** @returns where the next one goes */
function write(chunk: Buffer, at: number, value: Value): number {
  if (value === undefined) return chunk.writeUInt8(TAG.lost, at)
  if (value === null) return chunk.writeUInt8(TAG.null, at)
  if (typeof value === 'number') return chunk.writeDoubleLE(value, chunk.writeUInt8(TAG.number, at))
  if (typeof value === 'bigint') return chunk.writeBigInt64LE(value, chunk.writeUInt8(TAG.integer, at))
  const isText = typeof value === 'string'
  chunk.writeUInt8(isText ? TAG.text : TAG.blob, at)
  const size = isText ? chunk.write(value, at + 5) : value.length
  if (!isText) chunk.set(value, at + 5)
  return chunk.writeUInt32LE(size, at + 1) + size
}

function valuesAt(chunk: Buffer, start: number, count: number): Value[] {
  const values: Value[] = []
  for (let at = start; values.length < count; ) {
    const { value, end } = read(chunk, at)
    values.push(value)
    at = end
  }
  return values
}

function read(chunk: Buffer, at: number): { value: Value; end: number } {
  switch (chunk.readUInt8(at)) {
    case TAG.lost:
      return { value: undefined, end: at + 1 }
    case TAG.null:
      return { value: null, end: at + 1 }
    case TAG.number:
      return { value: chunk.readDoubleLE(at + 1), end: at + 9 }
    case TAG.integer:
      return { value: chunk.readBigInt64LE(at + 1), end: at + 9 }
  }
  const from = at + 5
  const end = from + chunk.readUInt32LE(at + 1)
  const isText = chunk.readUInt8(at) === TAG.text
  return { value: isText ? chunk.toString('utf8', from, end) : new Uint8Array(chunk.subarray(from, end)), end }
}
