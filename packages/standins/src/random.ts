/** Repeatable random numbers (mulberry32, public domain): the same seed always makes the same demo. */
export class Random {
  #state: number
  constructor(seed: number) {
    this.#state = seed >>> 0
  }

  /** From 0 up to, not including, 1. */
  next(): number {
    this.#state = (this.#state + 0x6d2b79f5) >>> 0
    let t = this.#state
    t = Math.imul(t ^ (t >>> 15), t | 1)
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61)
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }

  /** A whole number from `low` to `high`, both included. */
  int(low: number, high: number): number {
    return low + Math.floor(this.next() * (high - low + 1))
  }

  pick<T>(list: readonly T[]): T {
    return list[this.int(0, list.length - 1)] as T
  }

  chance(probability: number): boolean {
    return this.next() < probability
  }

  /** A UUID-shaped text, upper case. */
  uuid(): string {
    const hex = Array.from({ length: 32 }, () => this.int(0, 15).toString(16))
      .join('')
      .toUpperCase()
    return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
  }
}
