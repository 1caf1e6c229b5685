import { createDecipheriv } from 'node:crypto'
import { FormatError } from '../io/errors.js'

/** The key bag of an encrypted backup: how its password becomes keys, and the keys of each class, wrapped. */
export interface Keybag {
  /** For the PBKDF2-HMAC-SHA1 round, which every bag has. */
  salt: Uint8Array
  iterations: number
  /** For the PBKDF2-HMAC-SHA256 round before it; undefined: the bag is of the older kind. */
  first: { salt: Uint8Array; iterations: number } | undefined
  /** Wrapped keys by class. Only those that the password alone can open are here. */
  classes: Map<number, Uint8Array>
}

interface ClassEntry {
  number?: number
  wrap?: number
  key?: Uint8Array
}

const TAG_HEADER = 8
const MAX_KEYBAG_BYTES = 1 << 20
const WRAPPED_BYTES = 40
const WRAPPED_BY_DEVICE = 1
const WRAPPED_BY_PASSWORD = 2
// Real bags ask for 10,000 and 10,000,000 rounds; far more is a bag that was made to keep a reader busy.
const MOST_ITERATIONS = 200_000_000

/**
 * Reads a key bag: items of a four-letter tag, a length and a value (layout from memory, see docs/formats.md).
 * @throws FormatError where it is no bag, or asks for an absurd count of rounds
 */
export function parseKeybag(bytes: Uint8Array): Keybag {
  if (bytes.length > MAX_KEYBAG_BYTES) throw new FormatError('too-large', 0, 'key bag over 1 MiB')
  const bag = new Map<string, Uint8Array>()
  const entries: ClassEntry[] = []
  for (const { tag, value, at } of items(bytes)) {
    if (tag === 'UUID' && bag.has('UUID')) entries.push({})
    const entry = entries.at(-1)
    if (!entry) bag.set(tag, value)
    else if (tag === 'CLAS') entry.number = number(value, at)
    else if (tag === 'WRAP') entry.wrap = number(value, at)
    else if (tag === 'WPKY') entry.key = value
  }
  const salt = bag.get('SALT')
  const iterations = bag.get('ITER')
  if (!salt || !iterations)
    throw new FormatError('bad-magic', 0, 'no key bag: its salt or its count of rounds is missing')
  const firstSalt = bag.get('DPSL')
  const firstIterations = bag.get('DPIC')
  return {
    salt,
    iterations: rounds(iterations),
    first: firstSalt && firstIterations ? { salt: firstSalt, iterations: rounds(firstIterations) } : undefined,
    classes: classesOf(entries),
  }
}

function* items(bytes: Uint8Array): Generator<{ tag: string; value: Uint8Array; at: number }> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  for (let at = 0; at + TAG_HEADER <= bytes.length; ) {
    const tag = Buffer.from(bytes.subarray(at, at + 4)).toString('latin1')
    const length = view.getUint32(at + 4)
    const end = at + TAG_HEADER + length
    if (end > bytes.length) throw new FormatError('truncated', at, `key bag item ${JSON.stringify(tag)} is cut short`)
    yield { tag, value: bytes.subarray(at + TAG_HEADER, end), at }
    at = end
  }
}

function number(value: Uint8Array, at: number): number {
  if (value.length !== 4) throw new FormatError('bad-value', at, `a number of ${value.length} bytes in the key bag`)
  return new DataView(value.buffer, value.byteOffset, 4).getUint32(0)
}

function rounds(value: Uint8Array): number {
  const count = number(value, 0)
  if (count < 1 || count > MOST_ITERATIONS)
    throw new FormatError('too-large', 0, `the key bag asks for ${count} rounds of key derivation`)
  return count
}

function classesOf(entries: readonly ClassEntry[]): Keybag['classes'] {
  const classes = new Map<number, Uint8Array>()
  for (const { number: id, wrap = 0, key } of entries) {
    if (id === undefined) continue
    const byPassword = (wrap & WRAPPED_BY_PASSWORD) !== 0 && (wrap & WRAPPED_BY_DEVICE) === 0
    if (byPassword && key?.length === WRAPPED_BYTES) classes.set(id, key)
  }
  return classes
}

const INTEGRITY = Buffer.alloc(8, 0xa6)

/** Unwraps a key (RFC 3394, with its default initial value). Undefined: the wrapping key is not the right one. */
export function unwrapKey(wrapping: Uint8Array, wrapped: Uint8Array): Uint8Array | undefined {
  if (wrapped.length < 24 || wrapped.length % 8 !== 0) return undefined
  const cipher = ({ 16: 'id-aes128-wrap', 24: 'id-aes192-wrap', 32: 'id-aes256-wrap' } as const)[wrapping.length]
  if (!cipher) return undefined
  try {
    const unwrap = createDecipheriv(cipher, wrapping, INTEGRITY)
    return Buffer.concat([unwrap.update(wrapped), unwrap.final()])
  } catch {
    // The integrity check failed; the cipher's own message says nothing more.
    return undefined
  }
}
