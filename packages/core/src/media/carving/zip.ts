import type { Bytes, Walk } from './types.js'
import { littleEndian } from './window.js'

// Records of a ZIP (APPNOTE 6.3, section 4.3) by their signatures.
const ENTRY = 0x04034b50
const DESCRIPTOR = 'PK\u0007\u0008'
const DIRECTORY_ENTRY = 0x02014b50
const END = 0x06054b50
const END_64 = 0x06064b50
const LOCATOR_64 = 0x07064b50

const HEAD_BYTES = 30
const MOST_NAME = 1024
// Entries of an archive; descriptors that are tried for the end of one entry.
const MOST_ENTRIES = 1_000_000
const MOST_DESCRIPTORS = 64
const MOST_ENTRY_BYTES = 200_000_000
// In the place of a size or an offset that stands elsewhere, in eight bytes.
const ELSEWHERE = 0xffffffff
const NO_SIZE_YET = 8

/** Beginnings of entries that an earlier walk met in an archive without an end: none of them begins a whole one. */
const broken = new WeakMap<Bytes, Set<number>>()

/**
 * ZIP: its entries one behind the other, and behind them the directory that lists just these. Each entry begins like a
 * file of its own, so that an archive without its end is nothing that can be told apart.
 */
export const walkZip: Walk = (bytes, start) => {
  const known = broken.get(bytes) ?? new Set<number>()
  broken.set(bytes, known)
  if (known.has(start)) return undefined
  const entries: number[] = []
  let at = start
  while (entries.length < MOST_ENTRIES && littleEndian(bytes, at, 4) === ENTRY) {
    entries.push(at)
    const end = entryEnd(bytes, at)
    if (end === undefined) break
    at = end
  }
  const end = entries.length > 0 ? archiveEnd(bytes, { start, directory: at, entries: entries.length }) : undefined
  if (end !== undefined) return end <= bytes.size ? { end, wholeness: 'whole' } : { end: bytes.size, wholeness: 'cut' }
  for (const entry of entries) if (known.size < MOST_ENTRIES) known.add(entry)
  return undefined
}

/** Where an entry ends; undefined: it is none, or its end is not there. */
function entryEnd(bytes: Bytes, at: number): number | undefined {
  const flags = littleEndian(bytes, at + 6, 2)
  const stored = littleEndian(bytes, at + 18, 4)
  const nameLength = littleEndian(bytes, at + 26, 2)
  const extraLength = littleEndian(bytes, at + 28, 2)
  if (flags === undefined || stored === undefined || extraLength === undefined) return undefined
  if (nameLength === undefined || nameLength === 0 || nameLength > MOST_NAME) return undefined
  const data = at + HEAD_BYTES + nameLength + extraLength
  if (flags & NO_SIZE_YET && stored === 0) return behindDescriptor(bytes, data)
  const size = stored === ELSEWHERE ? wideSize(bytes, at + HEAD_BYTES + nameLength, extraLength) : stored
  return size === undefined || data + size > bytes.size ? undefined : descriptorAt(bytes, data + size, flags)
}

/** Behind an entry whose size was known beforehand a descriptor may stand all the same. */
function descriptorAt(bytes: Bytes, at: number, flags: number): number {
  const isThere = flags & NO_SIZE_YET && Buffer.from(bytes.at(at, 4)).toString('latin1') === DESCRIPTOR
  return isThere ? at + 16 : at
}

/** The size of an entry in its extra field for large ones (section 4.5.3): the second number there. */
function wideSize(bytes: Bytes, at: number, length: number): number | undefined {
  for (let field = at; field + 4 <= at + length; ) {
    const size = littleEndian(bytes, field + 2, 2) ?? 0
    if (littleEndian(bytes, field, 2) === 1 && size >= 16) return littleEndian(bytes, field + 12, 8)
    field += 4 + size
  }
  return undefined
}

/** The end of an entry whose size stands behind it: where a descriptor gives just the bytes up to itself. */
function behindDescriptor(bytes: Bytes, data: number): number | undefined {
  let from = data
  for (let tries = 0; tries < MOST_DESCRIPTORS; tries++) {
    const found = bytes.find(DESCRIPTOR, from, data + MOST_ENTRY_BYTES - from)
    if (found === undefined) return undefined
    if (littleEndian(bytes, found + 8, 4) === found - data) {
      const isWide = littleEndian(bytes, found + 8, 8) === found - data
      return found + (isWide ? 24 : 16)
    }
    from = found + 1
  }
  return undefined
}

/** Where the archive ends, if its directory is there and lists as many entries, from here on. */
function archiveEnd(
  bytes: Bytes,
  { start, directory, entries }: { start: number; directory: number; entries: number },
): number | undefined {
  let at = directory
  for (let listed = 0; listed < entries; listed++) {
    const lengths = [28, 30, 32].map((offset) => littleEndian(bytes, at + offset, 2))
    if (littleEndian(bytes, at, 4) !== DIRECTORY_ENTRY || lengths.includes(undefined)) return undefined
    at += 46 + lengths.reduce((sum: number, length) => sum + (length ?? 0), 0)
  }
  const size = at - directory
  if (littleEndian(bytes, at, 4) === END_64) {
    at += 12 + (littleEndian(bytes, at + 4, 8) ?? 0)
    if (littleEndian(bytes, at, 4) !== LOCATOR_64) return undefined
    at += 20
  }
  const comment = littleEndian(bytes, at + 20, 2)
  if (littleEndian(bytes, at, 4) !== END || comment === undefined) return undefined
  const says = (offset: number, value: number) =>
    [value, ELSEWHERE].includes(littleEndian(bytes, at + offset, 4) as number)
  return says(12, size) && says(16, directory - start) ? at + 22 + comment : undefined
}
