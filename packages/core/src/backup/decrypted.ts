import { createDecipheriv } from 'node:crypto'
import { type ByteSource, checkRange } from '../io/source.js'
import { unwrapKey } from './keybag.js'
import type { ClassKeys } from './unlock.js'

const BLOCK = 16
const NO_IV = Buffer.alloc(BLOCK)
const WRAPPED_BYTES = 44
const MOST_KEPT = 8

/**
 * A file's own key from the record that lists the file: its class as a little-endian number, then the wrapped key.
 * Undefined: the class is not open, or the key is damaged.
 */
export function fileKey(keys: ClassKeys, wrapped: Uint8Array): Uint8Array | undefined {
  if (wrapped.length !== WRAPPED_BYTES) return undefined
  const id = new DataView(wrapped.buffer, wrapped.byteOffset, 4).getUint32(0, true)
  const key = keys.get(id)
  return key && unwrapKey(key, wrapped.subarray(4))
}

/**
 * A file of an encrypted backup: AES-256-CBC (NIST SP 800-38A) with a zero initial vector and no chaining across files.
 * Any range can be read by itself, since a block needs only the one before it.
 */
export class DecryptedSource implements ByteSource {
  readonly size: number
  /** What encrypted bytes were read into, for the next ones: new memory for each costs as much as decrypting does. */
  readonly #memory: Uint8Array[] = []

  /** `size`: bytes of the content, where it is known; what is missing of it was cut off. */
  constructor(
    readonly inner: ByteSource,
    readonly key: Uint8Array,
    size: number | null,
  ) {
    const whole = inner.size - (inner.size % BLOCK)
    this.size = size === null ? whole - this.#padding(whole) : Math.min(size, whole)
  }

  async read(start: number, end: number): Promise<Uint8Array> {
    checkRange(start, end, this.size)
    const { from, to } = blocksOf(start, end)
    if (!this.inner.readInto) return this.#decrypt(await this.inner.read(from, to), start, end)
    const used = this.#memory.pop()
    const memory = used && used.length >= to - from ? used : new Uint8Array(to - from)
    const encrypted = memory.subarray(0, to - from)
    await this.inner.readInto(encrypted, from)
    const plain = this.#decrypt(encrypted, start, end)
    if (this.#memory.length < MOST_KEPT) this.#memory.push(memory)
    return plain
  }

  readSync(start: number, end: number): Uint8Array {
    checkRange(start, end, this.size)
    const { from, to } = blocksOf(start, end)
    return this.#decrypt(this.inner.readSync(from, to), start, end)
  }

  close(): Promise<void> {
    return this.inner.close()
  }

  #decrypt(encrypted: Uint8Array, start: number, end: number): Uint8Array {
    const first = start - (start % BLOCK)
    const iv = first === 0 ? NO_IV : encrypted.subarray(0, BLOCK)
    const cipher = createDecipheriv('aes-256-cbc', this.key, iv).setAutoPadding(false)
    const plain = cipher.update(first === 0 ? encrypted : encrypted.subarray(BLOCK))
    // Not a Buffer: its slices would share the memory of the whole piece.
    return new Uint8Array(plain.buffer, plain.byteOffset + start - first, end - start)
  }

  /** Bytes of padding (PKCS #7) behind a content of unknown size; none where the end does not look like padding. */
  #padding(whole: number): number {
    if (whole === 0) return 0
    const { from, to } = blocksOf(whole - BLOCK, whole)
    const last = this.#decrypt(this.inner.readSync(from, to), whole - BLOCK, whole)
    const count = last[BLOCK - 1] as number
    const padded = count >= 1 && count <= BLOCK && last.subarray(BLOCK - count).every((byte) => byte === count)
    return padded ? count : 0
  }
}

/** The encrypted bytes that a range needs: its blocks, and the one before them. */
function blocksOf(start: number, end: number): { from: number; to: number } {
  const first = start - (start % BLOCK)
  return { from: Math.max(0, first - BLOCK), to: Math.ceil(end / BLOCK) * BLOCK }
}
