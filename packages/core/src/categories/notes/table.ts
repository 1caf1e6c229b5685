import { BinaryReader, WireType } from '@bufbuild/protobuf/wire'
import { FormatError } from '../../io/errors.js'
import { field, textOf, unpack } from './document.js'

export const TABLE_TYPE = 'com.apple.notes.table'

// A note is written by hand; a table of more was made to fill memory.
const MOST_LINES = 2000
const MOST_CELLS = 50_000

/**
 * The cells of a table in a note, row by row: a list of objects that point to each other, in which the device keeps who
 * moved which line (field numbers from memory, see docs/categories.md).
 * @throws FormatError where it is none
 */
export function readNoteTable(data: Uint8Array): string[][] {
  try {
    return new Objects(field(field(unpack(data), 2), 3)).table()
  } catch (thrown) {
    if (thrown instanceof FormatError) throw thrown
    throw new FormatError('bad-value', 0, 'the table of the note cannot be unpacked', { cause: thrown })
  }
}

type Parts = Map<number, (number | Uint8Array)[]>

/** A message's parts by their numbers, each as often as it occurs; numbers, and bytes of what lies within. */
function partsOf(message: Uint8Array): Parts {
  const parts: Parts = new Map()
  const reader = new BinaryReader(message)
  while (reader.pos < reader.len) {
    const [number, type] = reader.tag()
    const isBytes = type === WireType.LengthDelimited
    if (!isBytes && type !== WireType.Varint) {
      reader.skip(type, number)
      continue
    }
    const value = isBytes ? reader.bytes() : Number(reader.uint64())
    const known = parts.get(number)
    if (known) known.push(value)
    else parts.set(number, [value])
  }
  return parts
}

const messagesIn = (parts: Parts | undefined, number: number): Parts[] =>
  (parts?.get(number) ?? []).flatMap((part) => (typeof part === 'number' ? [] : [partsOf(part)]))
const messageIn = (parts: Parts | undefined, number: number): Parts | undefined => messagesIn(parts, number)[0]
const bytesIn = (parts: Parts | undefined, number: number): Uint8Array[] =>
  (parts?.get(number) ?? []).filter((part) => typeof part !== 'number')
const numberIn = (parts: Parts | undefined, number: number): number | undefined =>
  (parts?.get(number) ?? []).find((part) => typeof part === 'number')

class Objects {
  readonly #entries: Uint8Array[]
  readonly #keys: string[]
  readonly #types: string[]
  readonly #uuids: string[]

  constructor(message: Uint8Array) {
    const parts = partsOf(message)
    const texts = (number: number) => bytesIn(parts, number).map((bytes) => Buffer.from(bytes).toString('utf8'))
    this.#entries = bytesIn(parts, 3)
    this.#keys = texts(4)
    this.#types = texts(5)
    this.#uuids = bytesIn(parts, 6).map((bytes) => Buffer.from(bytes).toString('hex'))
  }

  table(): string[][] {
    const table = this.#entries
      .map((entry) => messageIn(partsOf(entry), 13))
      .find((map) => this.#types[numberIn(map, 1) ?? -1]?.endsWith('ICTable'))
    if (!table) throw new FormatError('bad-magic', 0, 'the message holds no table')
    const parts = new Map(
      messagesIn(table, 3).map((one) => [this.#keys[numberIn(one, 1) ?? -1], this.#pointed(messageIn(one, 2))]),
    )
    const rows = this.#order(messageIn(parts.get('crRows'), 16))
    const columns = this.#order(messageIn(parts.get('crColumns'), 16))
    const height = Math.max(0, ...[...rows.values()].map((at) => at + 1))
    const width = Math.max(0, ...[...columns.values()].map((at) => at + 1))
    if (height * width > MOST_CELLS) throw new FormatError('too-large', 0, 'the table is larger than any note')
    const cells = Array.from({ length: height }, () => Array.from({ length: width }, () => ''))
    for (const [column, inColumn] of this.#pairs(messageIn(parts.get('cellColumns'), 6)))
      for (const [row, cell] of this.#pairs(messageIn(inColumn, 6))) {
        const line = cells[rows.get(this.#identity(row)) ?? -1]
        const at = columns.get(this.#identity(column)) ?? -1
        const [note] = bytesIn(cell, 10)
        if (line && at >= 0 && note) line[at] = textOf(note)
      }
    return cells
  }

  /** The object that a reference points to. */
  #pointed(reference: Parts | undefined): Parts | undefined {
    const entry = this.#entries[numberIn(reference, 6) ?? -1]
    return entry && partsOf(entry)
  }

  /** What a dictionary assigns: key and value, as objects. */
  #pairs(dictionary: Parts | undefined): [Parts | undefined, Parts | undefined][] {
    return messagesIn(dictionary, 1)
      .slice(0, MOST_CELLS)
      .map((one) => [this.#pointed(messageIn(one, 1)), this.#pointed(messageIn(one, 2))])
  }

  /** The identity that an object stands for: a number in the list of them. */
  #identity(object: Parts | undefined): number {
    return numberIn(messageIn(messageIn(messageIn(object, 13), 3), 2), 2) ?? -1
  }

  /** Identities with their place in an ordered set; one that was moved has a new identity that stands for the old one. */
  #order(set: Parts | undefined): Map<number, number> {
    const ordering = messageIn(set, 1)
    const places = new Map<number, number>()
    const listed = messagesIn(messageIn(ordering, 1), 2).slice(0, MOST_LINES)
    for (const [place, one] of listed.entries()) {
      const [uuid] = bytesIn(one, 2)
      if (uuid) places.set(this.#uuids.indexOf(Buffer.from(uuid).toString('hex')), place)
    }
    for (const [key, value] of this.#pairs(messageIn(ordering, 2))) {
      const place = places.get(this.#identity(key))
      if (place !== undefined) places.set(this.#identity(value), place)
    }
    return places
  }
}
