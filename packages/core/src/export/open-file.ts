import { createHash } from 'node:crypto'
import type { FileHandle } from 'node:fs/promises'
import type { BagFile } from './bag-types.js'

// Pieces of a table or a page are small, and a call of the file system costs more than they do.
const MOST_HELD = 64 << 10

/** A file of a bag while it is being written. */
export class OpenFile {
  readonly #hash = createHash('sha256')
  #bytes = 0
  /** Pieces that are not written yet. */
  #held: Uint8Array[] = []
  #heldBytes = 0

  constructor(
    readonly handle: FileHandle,
    /** Takes over the handle, which is still open. */
    readonly done: (bytes: number, sha256: string) => Promise<BagFile>,
  ) {}

  async write(piece: string | Uint8Array): Promise<void> {
    const bytes = typeof piece === 'string' ? Buffer.from(piece) : piece
    this.#held.push(bytes)
    this.#heldBytes += bytes.byteLength
    if (this.#heldBytes >= MOST_HELD) await this.#flush()
  }

  async close(): Promise<BagFile> {
    await this.#flush()
    return this.done(this.#bytes, this.#hash.digest('hex'))
  }

  async #flush(): Promise<void> {
    const bytes = this.#held.length === 1 ? (this.#held[0] as Uint8Array) : Buffer.concat(this.#held)
    this.#held = []
    this.#heldBytes = 0
    this.#hash.update(bytes)
    this.#bytes += bytes.byteLength
    for (let at = 0; at < bytes.byteLength; ) at += (await this.handle.write(bytes, at)).bytesWritten
  }
}
