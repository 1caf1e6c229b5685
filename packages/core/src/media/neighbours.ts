/**
 * Finds fingerprints of 64 bits that differ in few of them. Two that differ in at most seven agree in one of their eight
 * bytes at least, so only those with a byte in common are compared.
 */
export class NeighbourIndex {
  /** For each byte's place and value: positions of the fingerprints that have it. */
  readonly #buckets: number[][] = Array.from({ length: 8 * 256 }, () => [])
  readonly #high: Uint32Array
  readonly #low: Uint32Array

  constructor(readonly fingerprints: readonly bigint[]) {
    this.#high = Uint32Array.from(fingerprints, (one) => Number(one >> 32n))
    this.#low = Uint32Array.from(fingerprints, (one) => Number(one & 0xffffffffn))
    for (let at = 0; at < fingerprints.length; at++)
      for (let byte = 0; byte < 8; byte++) this.#bucket(byte, this.#byte(at, byte)).push(at)
  }

  #byte(at: number, byte: number): number {
    const half = byte < 4 ? this.#high : this.#low
    return ((half[at] as number) >>> (24 - 8 * (byte & 3))) & 0xff
  }

  #bucket(byte: number, value: number): number[] {
    return this.#buckets[byte * 256 + value] as number[]
  }

  /** Positions of fingerprints that differ from that at `at` in at most `most` bits (seven or fewer), nearest first. */
  near(at: number, most: number): number[] {
    const found = new Map<number, number>()
    for (let byte = 0; byte < 8; byte++)
      for (const other of this.#bucket(byte, this.#byte(at, byte))) {
        if (other === at) continue
        const bits =
          ones((this.#high[at] as number) ^ (this.#high[other] as number)) +
          ones((this.#low[at] as number) ^ (this.#low[other] as number))
        if (bits <= most) found.set(other, bits)
      }
    return [...found].sort((a, b) => a[1] - b[1] || a[0] - b[0]).map(([other]) => other)
  }
}

/** Bits that are set in 32 (a count in parallel, common practice). */
function ones(word: number): number {
  let bits = word - ((word >>> 1) & 0x55555555)
  bits = (bits & 0x33333333) + ((bits >>> 2) & 0x33333333)
  return Math.imul((bits + (bits >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24
}
