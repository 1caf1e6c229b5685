import { createCipheriv, createDecipheriv, timingSafeEqual } from 'node:crypto'

// Layout of a locked keychain item from memory (docs/formats.md): version, class, wrapped key, ciphertext, tag.
const OLDEST = 0
const WRAPPED_BYTES = 40
const TAG_BYTES = 16
const BLOCK = 16
const CLASS_MASK = 0xf

/** Opens a wrapped key with the key of a protection class; undefined: that class is not open. */
export type Unwrap = (protection: number, wrapped: Uint8Array) => Uint8Array | undefined

/** The plain bytes of a locked keychain item. Undefined: its class does not open, or it is damaged. */
export function openKeychainItem(locked: Uint8Array, unwrap: Unwrap): Uint8Array | undefined {
  if (locked.length < 8 + WRAPPED_BYTES) return undefined
  const view = new DataView(locked.buffer, locked.byteOffset, locked.byteLength)
  const version = view.getUint32(0, true)
  const protection = view.getUint32(4, true) & CLASS_MASK
  if (version === OLDEST) return openOldest(locked, protection, unwrap)
  const size = view.getUint32(8, true)
  const start = 12 + size
  if (size !== WRAPPED_BYTES || start + TAG_BYTES > locked.length) return undefined
  const key = unwrap(protection, locked.subarray(12, start))
  return key && openSealed(key, locked.subarray(start, -TAG_BYTES), locked.subarray(-TAG_BYTES))
}

function openOldest(locked: Uint8Array, protection: number, unwrap: Unwrap): Uint8Array | undefined {
  const key = unwrap(protection, locked.subarray(8, 8 + WRAPPED_BYTES))
  const sealed = locked.subarray(8 + WRAPPED_BYTES)
  if (!key || sealed.length === 0 || sealed.length % BLOCK !== 0) return undefined
  try {
    const cipher = createDecipheriv('aes-256-cbc', key, Buffer.alloc(BLOCK))
    return Buffer.concat([cipher.update(sealed), cipher.final()])
  } catch {
    // Wrong padding: the item is damaged.
    return undefined
  }
}

/**
 * AES-256-GCM (NIST SP 800-38D) with an initial vector of no bytes, which ciphers of libraries refuse: its first counter
 * block is then all zeros, so that the text is in counter mode from one on. Undefined: the tag does not agree.
 */
export function openSealed(key: Uint8Array, sealed: Uint8Array, tag: Uint8Array): Uint8Array | undefined {
  const block = createCipheriv('aes-256-ecb', key, null).setAutoPadding(false)
  const zero = Buffer.alloc(BLOCK)
  const encryptedZero = block.update(zero)
  const expected = xor(ghash(toNumber(encryptedZero), sealed), encryptedZero)
  if (!timingSafeEqual(expected, tag)) return undefined
  const counter = Buffer.alloc(BLOCK)
  counter[BLOCK - 1] = 1
  return createDecipheriv('aes-256-ctr', key, counter).update(sealed)
}

/** GHASH (SP 800-38D, 6.4) of a text without additional data; `h` is the hash key. Items are small. */
function ghash(h: bigint, text: Uint8Array): Buffer {
  let sum = 0n
  for (let at = 0; at < text.length; at += BLOCK) {
    const part = Buffer.alloc(BLOCK)
    part.set(text.subarray(at, at + BLOCK))
    sum = multiply(sum ^ toNumber(part), h)
  }
  return toBytes(multiply(sum ^ BigInt(text.length * 8), h))
}

const REDUCE = 0xe1n << 120n

/** Product in the field of SP 800-38D, 6.3. */
function multiply(x: bigint, y: bigint): bigint {
  let product = 0n
  let rest = y
  for (let bit = 127n; bit >= 0n; bit--) {
    if ((x >> bit) & 1n) product ^= rest
    rest = rest & 1n ? (rest >> 1n) ^ REDUCE : rest >> 1n
  }
  return product
}

const toNumber = (bytes: Uint8Array): bigint => BigInt(`0x${Buffer.from(bytes).toString('hex')}`)
const toBytes = (value: bigint): Buffer => Buffer.from(value.toString(16).padStart(32, '0'), 'hex')
const xor = (a: Uint8Array, b: Uint8Array): Buffer => Buffer.from(a.map((byte, i) => byte ^ (b[i] as number)))
