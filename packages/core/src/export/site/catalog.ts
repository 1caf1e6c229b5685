import { type FileHandle, open } from 'node:fs/promises'
import { CATEGORY_IDS } from '../../categories/registry.js'
import { type PackagedItem, packagedItem } from '../packaged.js'

// An item's line is read by itself only where those of its part lie further apart than this.
const MOST_AT_ONCE = 8 << 20
const CHUNK = 1 << 20

/** What items are ordered by, a column each: half a million of them stay small so. */
class Keys {
  #room = 1024
  size = 0
  /** Where an item's line begins in the index, and how long it is, in bytes. */
  starts = new Float64Array(this.#room)
  lengths = new Uint32Array(this.#room)
  categories = new Uint8Array(this.#room)
  /** Of its conversation, in the order in which they come; 0: it belongs to none. */
  conversations = new Uint32Array(this.#room)
  /** Milliseconds; NaN: it has no date. */
  times = new Float64Array(this.#room)

  add(start: number, length: number, category: number, conversation: number, time: number): void {
    if (this.size === this.#room) this.#grow()
    const at = this.size++
    this.starts[at] = start
    this.lengths[at] = length
    this.categories[at] = category
    this.conversations[at] = conversation
    this.times[at] = time
  }

  /** The items in the order of the pages, as places in these columns. */
  inOrder(): Uint32Array {
    return Uint32Array.from({ length: this.size }, (_, i) => i).sort((a, b) => this.#compare(a, b))
  }

  #compare(a: number, b: number): number {
    const { categories, conversations, times, starts } = this
    const of = (column: Float64Array | Uint32Array | Uint8Array, at: number) => column[at] ?? 0
    const grouped = of(categories, a) - of(categories, b) || of(conversations, a) - of(conversations, b)
    if (grouped !== 0) return grouped
    const [timeA, timeB] = [of(times, a), of(times, b)]
    const undated = Number(Number.isNaN(timeA)) - Number(Number.isNaN(timeB))
    if (undated !== 0) return undated
    const later = Number.isNaN(timeA) ? 0 : timeA - timeB
    return (of(conversations, a) === 0 ? -later : later) || of(starts, a) - of(starts, b)
  }

  #grow(): void {
    this.#room *= 2
    const grown = <Column extends Float64Array | Uint32Array | Uint8Array>(column: Column, wider: Column): Column => {
      wider.set(column)
      return wider
    }
    this.starts = grown(this.starts, new Float64Array(this.#room))
    this.lengths = grown(this.lengths, new Uint32Array(this.#room))
    this.categories = grown(this.categories, new Uint8Array(this.#room))
    this.conversations = grown(this.conversations, new Uint32Array(this.#room))
    this.times = grown(this.times, new Float64Array(this.#room))
  }
}

/**
 * The items of a package in the order in which its pages show them: kind by kind, conversations from their first message
 * to the last, all else from the newest to the oldest. Holds a few numbers of each; their lines stay in the index.
 */
export class Catalog {
  readonly #keys = new Keys()
  #order: Uint32Array = new Uint32Array(0)
  readonly #conversations = new Map<string, number>()
  /** For the lines of a part, one after the other. */
  #buffer = Buffer.alloc(CHUNK)
  /** Ids of messages that others answer. */
  readonly answered = new Set<string>()

  private constructor(readonly file: FileHandle) {}

  /**
   * Reads an index of a package (`index.jsonl`). The caller closes what it gets.
   * @throws DestinationError where a line of it is damaged
   */
  static async open(path: string): Promise<Catalog> {
    const catalog = new Catalog(await open(path, 'r'))
    try {
      for await (const { text, start, length } of linesOf(catalog.file)) catalog.#add(packagedItem(text), start, length)
      catalog.#order = catalog.#keys.inOrder()
      return catalog
    } catch (thrown) {
      await catalog.close()
      throw thrown
    }
  }

  get size(): number {
    return this.#keys.size
  }

  /** Items from one number to another, the last one excluded. */
  async items(from: number, to: number): Promise<PackagedItem[]> {
    const { starts, lengths } = this.#keys
    const keys = [...this.#order.subarray(from, to)].map((at) => ({ start: starts[at] ?? 0, length: lengths[at] ?? 0 }))
    const start = keys.reduce((least, key) => Math.min(least, key.start), Number.POSITIVE_INFINITY)
    const end = keys.reduce((most, key) => Math.max(most, key.start + key.length), 0)
    const lineOf = (bytes: Buffer, at: number, length: number) => packagedItem(bytes.toString('utf8', at, at + length))
    const items: PackagedItem[] = []
    if (end - start <= MOST_AT_ONCE) {
      const bytes = await this.#read(start, Math.max(0, end - start))
      for (const key of keys) items.push(lineOf(bytes, key.start - start, key.length))
    } else for (const key of keys) items.push(lineOf(await this.#read(key.start, key.length), 0, key.length))
    return items
  }

  close(): Promise<void> {
    return this.file.close()
  }

  #add(item: PackagedItem, start: number, length: number): void {
    const { category, when, fields } = item
    const key = conversationOf(item)
    let conversation = 0
    if (key !== null) {
      conversation = this.#conversations.get(key) ?? this.#conversations.size + 1
      this.#conversations.set(key, conversation)
    }
    if (typeof fields.replyTo === 'string') this.answered.add(fields.replyTo)
    const time = when === null ? Number.NaN : Date.parse(when)
    this.#keys.add(start, length, CATEGORY_IDS.indexOf(category), conversation, time)
  }

  /** What stands there in the file, until the next is read. */
  async #read(start: number, length: number): Promise<Buffer> {
    if (length > this.#buffer.length) this.#buffer = Buffer.alloc(length)
    const bytes = this.#buffer
    let at = 0
    while (at < length) {
      const { bytesRead } = await this.file.read(bytes, at, length - at, start + at)
      if (bytesRead === 0) break
      at += bytesRead
    }
    return bytes
  }
}

/** What the messages of one conversation share; of a lost one that is its title. Null: the item is no message. */
export function conversationOf({ category, fields, title }: PackagedItem): string | null {
  if (fields.conversation === undefined || fields.body === undefined) return null
  return `${category}\0${typeof fields.conversation === 'string' ? fields.conversation : `\0${title}`}`
}

/** The lines of a file, each with its place in bytes; one buffer holds them one after the other. */
async function* linesOf(file: FileHandle): AsyncGenerator<{ text: string; start: number; length: number }> {
  let buffer = Buffer.alloc(CHUNK)
  // Bytes of a line that has not ended yet, and where they begin in the file.
  let held = 0
  let start = 0
  for (;;) {
    if (held === buffer.length) buffer = Buffer.concat([buffer], 2 * buffer.length)
    const { bytesRead } = await file.read(buffer, held, buffer.length - held, start + held)
    if (bytesRead === 0) break
    const seen = buffer.subarray(0, held + bytesRead)
    let line = 0
    for (let end = seen.indexOf(10, held); end >= 0; end = seen.indexOf(10, line)) {
      yield { text: seen.toString('utf8', line, end), start: start + line, length: end - line }
      line = end + 1
    }
    seen.copyWithin(0, line)
    held = seen.length - line
    start += line
  }
  if (held > 0) yield { text: buffer.toString('utf8', 0, held), start, length: held }
}
