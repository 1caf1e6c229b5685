import { parseBuffer } from 'bplist-parser'
import { parse as parseXml } from 'plist'
import { FormatError, messageOf } from '../io/errors.js'

/** What a property list holds. 64-bit integers that a number cannot hold come as bigint. */
export type PlistValue =
  | string
  | number
  | bigint
  | boolean
  | null
  | Date
  | Uint8Array
  | Uid
  | PlistValue[]
  | { [key: string]: PlistValue }

/** A reference inside a keyed archive. */
export interface Uid {
  UID: number
}

// Property lists of a backup are a few megabytes at most; more is damage, or meant to exhaust memory.
const MAX_PLIST_BYTES = 64 << 20

const MAGIC = 'bplist00'

/**
 * Parses a property list, binary or XML (the public DTD "PropertyList-1.0").
 * @throws FormatError when it is neither, is damaged, or is larger than any real one
 */
export function parsePlist(bytes: Uint8Array): PlistValue {
  if (bytes.byteLength > MAX_PLIST_BYTES) throw new FormatError('too-large', 0, 'property list over 64 MiB')
  const buffer = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const binary = buffer.subarray(0, MAGIC.length).toString('latin1') === MAGIC
  // The library prints text that is no XML at all to the console, and that may be an owner's: it never gets such text.
  if (!binary && !buffer.includes('<plist')) throw new FormatError('bad-magic', 0, 'not a property list')
  try {
    return binary
      ? (parseBuffer(buffer)[0] as PlistValue)
      : (quietly(() => parseXml(buffer.toString('utf8'))) as PlistValue)
  } catch (thrown) {
    throw new FormatError('bad-value', 0, `property list not readable: ${messageOf(thrown)}`, { cause: thrown })
  }
}

/** The library tells the console what is damaged in an owner's list. It runs to its end at once: nobody else is silenced. */
function quietly<T>(parse: () => T): T {
  const { error } = console
  console.error = () => {}
  try {
    return parse()
  } finally {
    console.error = error
  }
}

/** A property list whose top must be a dictionary. @throws FormatError otherwise */
export function parsePlistDict(bytes: Uint8Array): { [key: string]: PlistValue } {
  const value = parsePlist(bytes)
  if (!isDict(value)) throw new FormatError('bad-value', 0, 'the top of the property list is not a dictionary')
  return value
}

/** True for a dictionary, false for lists, dates, data and references. */
export function isDict(value: PlistValue | undefined): value is { [key: string]: PlistValue } {
  if (typeof value !== 'object' || value === null) return false
  return !(Array.isArray(value) || value instanceof Date || value instanceof Uint8Array || isUid(value))
}

/** True for a keyed archive's reference. */
export function isUid(value: unknown): value is Uid {
  return typeof value === 'object' && value !== null && typeof (value as Uid).UID === 'number'
}

/** The value, fit for UTF-8, if it is a text, else null. */
export const textOf = (value: unknown): string | null =>
  typeof value === 'string' && value !== '' ? value.toWellFormed() : null

/** The value if it is a valid date, else null. */
export const dateOf = (value: unknown): Date | null =>
  value instanceof Date && !Number.isNaN(value.getTime()) ? value : null
