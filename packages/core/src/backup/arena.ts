const CHUNK_BYTES = 1 << 20

/** Bytes that are kept in an arena. */
export interface Kept {
  arena: Arena
  chunk: number
  start: number
  length: number
}

/** Many small pieces of bytes in few large ones: a hundred thousand arrays of their own would cost more than they hold. */
export class Arena {
  readonly #chunks: Uint8Array[] = []
  #filled = CHUNK_BYTES

  keep(bytes: Uint8Array): Kept {
    if (this.#filled + bytes.length > (this.#chunks.at(-1)?.length ?? 0)) {
      this.#chunks.push(new Uint8Array(Math.max(CHUNK_BYTES, bytes.length)))
      this.#filled = 0
    }
    const start = this.#filled
    this.#chunks.at(-1)?.set(bytes, start)
    this.#filled += bytes.length
    return { arena: this, chunk: this.#chunks.length - 1, start, length: bytes.length }
  }

  bytes({ chunk, start, length }: Kept): Uint8Array {
    return (this.#chunks[chunk] as Uint8Array).subarray(start, start + length)
  }
}
