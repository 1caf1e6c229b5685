import { FormatError } from '../io/errors.js'
import type { ByteSource } from '../io/source.js'

/** Text encodings by the number that the file header gives them. */
const ENCODINGS = { 1: 'utf8', 2: 'utf16le', 3: 'utf16be' } as const
export type TextEncoding = (typeof ENCODINGS)[keyof typeof ENCODINGS]

/** The first 100 bytes of a database ("Database File Format", section 1.3), as far as reading needs them. */
export interface DatabaseHeader {
  pageSize: number
  /** Bytes of each page that cells may use: page size less the reserved tail. */
  usableSize: number
  /** Pages by the header, or 0 where the header does not vouch for it. */
  declaredPages: number
  firstTrunk: number
  freePages: number
  autoVacuum: boolean
  /** Since schema format 4 the numbers 0 and 1 take no bytes of their own. */
  bareConstants: boolean
  encoding: TextEncoding
}

export const HEADER_SIZE = 100
const MAGIC = 'SQLite format 3\0'

/** True if the bytes begin like a SQLite database. */
export const sniffDatabase = (head: Uint8Array): boolean =>
  Buffer.from(head.buffer, head.byteOffset, Math.min(head.byteLength, 16)).toString('latin1') === MAGIC

/**
 * Reads and checks the header, at `offset` of the file that holds the database's first page.
 * @throws FormatError when it is no database or its page size is impossible
 */
export function readHeader(source: ByteSource, offset = 0): DatabaseHeader {
  if (source.size < offset + HEADER_SIZE) throw new FormatError('truncated', 0, 'too short for a SQLite database')
  const bytes = source.readSync(offset, offset + HEADER_SIZE)
  if (!sniffDatabase(bytes)) throw new FormatError('bad-magic', 0, 'not a SQLite database')
  const view = new DataView(bytes.buffer, bytes.byteOffset, HEADER_SIZE)
  const raw = view.getUint16(16)
  const pageSize = raw === 1 ? 65536 : raw
  if (pageSize < 512 || (pageSize & (pageSize - 1)) !== 0)
    throw new FormatError('bad-value', 16, `page size ${raw} is not possible`)
  const usableSize = pageSize - view.getUint8(20)
  // The format asks for at least 480 usable bytes; the payload formulas break down below.
  if (usableSize < 480) throw new FormatError('bad-value', 20, 'too many reserved bytes a page')
  const vouched = view.getUint32(24) === view.getUint32(92)
  return {
    pageSize,
    usableSize,
    declaredPages: vouched ? view.getUint32(28) : 0,
    firstTrunk: view.getUint32(32),
    freePages: view.getUint32(36),
    autoVacuum: view.getUint32(52) !== 0,
    bareConstants: view.getUint32(44) >= 4,
    encoding: ENCODINGS[view.getUint32(56) as keyof typeof ENCODINGS] ?? 'utf8',
  }
}
