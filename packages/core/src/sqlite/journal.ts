import type { ByteSource } from '../io/source.js'
import type { Overlay } from './pager.js'

/** A page as it was before the change that a rollback journal belongs to. */
export interface JournalPage {
  page: number
  /** Byte offset of the image in the journal. */
  offset: number
}

export interface RollbackJournal {
  pages: JournalPage[]
  /** Of a hot journal: the state to which the interrupted change is rolled back. Null: it is not hot. */
  overlay: Overlay | null
}

const MAGIC = 'd9d505f920a163d7'
const HEADER = 28
const DEFAULT_SECTOR = 512

/**
 * Reads a rollback journal ("Database File Format", section 3). A journal whose header is whole is hot: its pages are
 * what the database really holds. One whose header was zeroed (journal_mode=PERSIST) is a leftover.
 */
export function readJournal(source: ByteSource, pageSize: number): RollbackJournal | undefined {
  if (source.size < DEFAULT_SECTOR + pageSize) return undefined
  const head = source.readSync(0, HEADER)
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength)
  const whole = Buffer.from(head.subarray(0, 8)).toString('hex') === MAGIC
  if (!whole && head.some((byte) => byte !== 0)) return undefined
  const sector = whole ? view.getUint32(20) : DEFAULT_SECTOR
  if (sector < 32 || sector > 65536 || (whole && view.getUint32(24) !== pageSize)) return undefined
  const { pages, own } = readRecords(source, pageSize, sector, whole ? batchOf(head) : undefined)
  if (!whole || own === 0) return { pages, overlay: null }
  const images = new Map<number, { source: ByteSource; offset: number }>()
  // The first image of a page is the one from before the change.
  for (const { page, offset } of pages.slice(0, own)) if (!images.has(page)) images.set(page, { source, offset })
  return { pages, overlay: { images, pageCount: view.getUint32(16) } }
}

/** What a header says of the records behind it. */
interface Batch {
  nonce: number
  count: number
}

const UNTIL_THE_END = 0xffffffff

function batchOf(head: Uint8Array): Batch {
  const view = new DataView(head.buffer, head.byteOffset, HEADER)
  const count = view.getUint32(8)
  return { nonce: view.getUint32(12), count: count === UNTIL_THE_END ? Number.POSITIVE_INFINITY : count }
}

// So many records that nothing confirms, one after the other, and no more is to be had.
const MOST_UNCONFIRMED = 8

/**
 * Records of the journal: first the `own` ones of the transaction that its header belongs to (checksums agree with its
 * nonce), then what a shorter transaction left of longer ones before it, each of which had a nonce of its own.
 */
function readRecords(source: ByteSource, pageSize: number, sector: number, header: Batch | undefined) {
  const pages: JournalPage[] = []
  const step = pageSize + 8
  const recordAt = (at: number) => (at + step <= source.size ? source.readSync(at, at + step) : undefined)
  let batch = header
  let own: number | undefined
  let unconfirmed = 0
  let at = sector
  for (let bytes = recordAt(at); bytes; bytes = recordAt(at)) {
    const page = new DataView(bytes.buffer, bytes.byteOffset, step).getUint32(0)
    const nonce = nonceOf(bytes, pageSize)
    // The nonce of a header that was zeroed follows from the first record.
    batch ??= { nonce, count: Number.POSITIVE_INFINITY }
    if (page > 0 && nonce === batch.nonce && batch.count > 0) {
      pages.push({ page, offset: at + 4 })
      batch.count--
      unconfirmed = 0
      at += step
      continue
    }
    // Behind a transaction that was larger than the cache comes another header, at the next sector.
    const next = Math.ceil(at / sector) * sector
    const more = headerAt(source, next)
    if (more) {
      batch = more
      at = next + sector
      continue
    }
    own ??= pages.length
    const following = recordAt(at + step)
    if (page > 0 && following && nonceOf(following, pageSize) === nonce) {
      batch = { nonce, count: Number.POSITIVE_INFINITY }
      continue
    }
    // Of a transaction that left one record, none confirms its nonce: it is one that looks like a page. Behind a hot one
    // the next header may have been written over it.
    if (++unconfirmed > MOST_UNCONFIRMED) break
    if (page > 0 && !header && isTreePage(bytes.subarray(4, 4 + pageSize))) pages.push({ page, offset: at + 4 })
    at += step
  }
  return { pages, own: own ?? pages.length }
}

function headerAt(source: ByteSource, at: number): Batch | undefined {
  if (at + HEADER > source.size) return undefined
  const head = source.readSync(at, at + HEADER)
  return Buffer.from(head.subarray(0, 8)).toString('hex') === MAGIC ? batchOf(head) : undefined
}

/** Whether a page begins as one of a b-tree: its kind, as many pointers as there is room for, and where cells begin. */
function isTreePage(page: Uint8Array): boolean {
  const leaf = page[0] === 10 || page[0] === 13
  if (!leaf && page[0] !== 2 && page[0] !== 5) return false
  const word = (at: number) => ((page[at] as number) << 8) | (page[at + 1] as number)
  const pointersEnd = (leaf ? 8 : 12) + 2 * word(3)
  const content = word(5) === 0 ? 65536 : word(5)
  return pointersEnd <= content && content <= page.length
}

/** The nonce with which the record's checksum would be right. */
function nonceOf(record: Uint8Array, pageSize: number): number {
  const checksum = new DataView(record.buffer, record.byteOffset + 4 + pageSize, 4).getUint32(0)
  return (checksum - sampleSum(record, pageSize)) >>> 0
}

/** The journal's checksum takes every 200th byte of the page, from its end. */
function sampleSum(record: Uint8Array, pageSize: number): number {
  let sum = 0
  for (let at = pageSize - 200; at > 0; at -= 200) sum = (sum + (record[4 + at] as number)) >>> 0
  return sum
}
