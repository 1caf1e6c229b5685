import { FormatError } from '../io/errors.js'
import type { ByteSource } from '../io/source.js'
import { type DatabaseHeader, readHeader } from './header.js'

/** A page image that replaces the one in the main file: from the write-ahead log or a hot journal. */
export interface PageImage {
  source: ByteSource
  /** Byte offset of the image in `source`. */
  offset: number
}

/** Newer (or rolled back) page images by page number, and the database's size in pages they lead to. */
export interface Overlay {
  images: Map<number, PageImage>
  pageCount: number
}

/** The header of the newest first page: until a log is written back, the main file's may say less than the log knows. */
function currentHeader(source: ByteSource, overlay: Overlay | null): DatabaseHeader {
  const main = readHeader(source)
  const first = overlay?.images.get(1)
  if (!first) return main
  try {
    const newest = readHeader(first.source, first.offset)
    return newest.pageSize === main.pageSize ? newest : main
  } catch (thrown) {
    if (thrown instanceof FormatError) return main
    throw thrown
  }
}

const BLOCK_BYTES = 1 << 15
const CACHE_BLOCKS = 512

/** Pages of one database by number, from 1, with a cache of bounded size (16 MiB). */
export class Pager {
  readonly pageCount: number
  readonly #blockPages: number
  readonly #blocks = new Map<number, Uint8Array>()

  private constructor(
    readonly source: ByteSource,
    readonly header: DatabaseHeader,
    readonly overlay: Overlay | null,
  ) {
    const inFile = Math.floor(source.size / header.pageSize)
    this.pageCount = overlay?.pageCount ?? inFile
    this.#blockPages = Math.max(1, BLOCK_BYTES / header.pageSize)
  }

  /** @throws FormatError when the file is no database */
  static open(source: ByteSource, overlay: Overlay | null = null): Pager {
    return new Pager(source, currentHeader(source, overlay), overlay)
  }

  get pageSize() {
    return this.header.pageSize
  }

  /** The bytes of a page. @throws FormatError when there is no such page */
  page(number: number): Uint8Array {
    if (!Number.isInteger(number) || number < 1 || number > this.pageCount)
      throw new FormatError('bad-value', 0, `page ${number} of ${this.pageCount} does not exist`)
    const image = this.overlay?.images.get(number)
    if (image) return image.source.readSync(image.offset, image.offset + this.pageSize)
    const index = Math.floor((number - 1) / this.#blockPages)
    return this.#cut(this.#blocks.get(index) ?? this.#load(index), number)
  }

  /** The same for pages that may be damaged or missing: undefined where there is no such page. */
  tryPage(number: number): Uint8Array | undefined {
    try {
      return this.page(number)
    } catch (thrown) {
      if (thrown instanceof FormatError) return undefined
      throw thrown
    }
  }

  /** Byte offset of a page in the file that holds its image. */
  offsetOf(number: number): number {
    return this.overlay?.images.get(number)?.offset ?? (number - 1) * this.pageSize
  }

  #cut(block: Uint8Array, number: number): Uint8Array {
    const start = ((number - 1) % this.#blockPages) * this.pageSize
    if (start + this.pageSize > block.length)
      throw new FormatError('truncated', (number - 1) * this.pageSize, `page ${number} is beyond the end of the file`)
    return block.subarray(start, start + this.pageSize)
  }

  #load(index: number): Uint8Array {
    const start = index * this.#blockPages * this.pageSize
    const block = this.source.readSync(
      Math.min(start, this.source.size),
      Math.min(start + this.#blockPages * this.pageSize, this.source.size),
    )
    // The oldest block goes first: walks are mostly in page order, so recency would gain little.
    if (this.#blocks.size >= CACHE_BLOCKS) this.#blocks.delete(this.#blocks.keys().next().value as number)
    this.#blocks.set(index, block)
    return block
  }
}
