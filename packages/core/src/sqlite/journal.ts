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
  const nonce = whole ? view.getUint32(12) : undefined
  const pages = readRecords(source, pageSize, sector, nonce)
  if (!whole || pages.length === 0) return { pages, overlay: null }
  const images = new Map<number, { source: ByteSource; offset: number }>()
  // The first image of a page is the one from before the change.
  for (const { page, offset } of pages) if (!images.has(page)) images.set(page, { source, offset })
  return { pages, overlay: { images, pageCount: view.getUint32(16) } }
}

/** Records whose checksum agrees with the nonce; the nonce of a zeroed header follows from the first record. */
function readRecords(source: ByteSource, pageSize: number, sector: number, known: number | undefined): JournalPage[] {
  const pages: JournalPage[] = []
  const step = pageSize + 8
  let nonce = known
  for (let at = sector; at + step <= source.size; ) {
    const bytes = source.readSync(at, at + step)
    const view = new DataView(bytes.buffer, bytes.byteOffset, step)
    const own = nonceOf(bytes, pageSize)
    nonce ??= own
    const page = view.getUint32(0)
    // A shorter transaction overwrote the start of a longer one, which had a nonce of its own.
    if (
      own !== nonce &&
      at + 2 * step <= source.size &&
      nonceOf(source.readSync(at + step, at + 2 * step), pageSize) === own
    )
      nonce = own
    if (page > 0 && own === nonce) {
      pages.push({ page, offset: at + 4 })
      at += step
      continue
    }
    // Behind a transaction that was larger than the cache comes another header, at the next sector.
    const next = Math.ceil((at + 1) / sector) * sector
    if (next + HEADER > source.size) break
    const head = source.readSync(next, next + HEADER)
    if (Buffer.from(head.subarray(0, 8)).toString('hex') !== MAGIC) break
    nonce = new DataView(head.buffer, head.byteOffset, HEADER).getUint32(12)
    at = next + sector
  }
  return pages
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
