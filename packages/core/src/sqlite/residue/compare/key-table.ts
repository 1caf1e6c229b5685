const FIRST_SLOTS = 1 << 12
const MOST_FILLED = 0.7
const SPREAD = 0x9e3779b1

/**
 * A set of fingerprints in one flat array: 12 to 24 bytes each, where a Set of numbers takes some 60. Rebuilding a large
 * database keeps several of them over a million rows.
 */
export class KeyTable {
  #slots = new Float64Array(FIRST_SLOTS).fill(-1)
  #size = 0

  get size(): number {
    return this.#size
  }

  has(key: number): boolean {
    return this.#slots[this.#slotOf(key)] === key
  }

  /** False: it was there. */
  add(key: number): boolean {
    const slot = this.#slotOf(key)
    if (this.#slots[slot] === key) return false
    this.#slots[slot] = key
    if (++this.#size > this.#slots.length * MOST_FILLED) this.#grow()
    return true
  }

  /** Where the key is, or would go. */
  #slotOf(key: number): number {
    const mask = this.#slots.length - 1
    const mixed = Math.imul(key ^ (key / 2 ** 32), SPREAD)
    let slot = (mixed ^ (mixed >>> 15)) & mask
    while (this.#slots[slot] !== -1 && this.#slots[slot] !== key) slot = (slot + 1) & mask
    return slot
  }

  #grow(): void {
    const old = this.#slots
    this.#slots = new Float64Array(old.length * 2).fill(-1)
    for (const key of old) if (key !== -1) this.#slots[this.#slotOf(key)] = key
  }
}
