const FIRST_SLOTS = 1 << 10
const MOST_FILLED = 0.7
const SPREAD = 0x9e3779b1
const NONE = -1

/**
 * Which rows have a fingerprint: a map from fingerprints to row numbers, several each, in flat arrays. An entry takes some
 * 25 bytes, where a Map of arrays takes over 100. Entries are walked with `first` and `next` until there is none (-1).
 */
export class KeyIndex {
  #keys = new Float64Array(FIRST_SLOTS)
  #ids = new Int32Array(FIRST_SLOTS)
  #next = new Int32Array(FIRST_SLOTS)
  /** The newest entry of each fingerprint, by open addressing. */
  #slots = new Int32Array(FIRST_SLOTS).fill(NONE)
  #size = 0

  /** Entries. */
  get size(): number {
    return this.#size
  }

  add(key: number, id: number): void {
    if (this.#size === this.#keys.length) this.#growEntries()
    if (this.#size >= this.#slots.length * MOST_FILLED) this.#growSlots()
    const slot = this.#slotOf(key)
    this.#keys[this.#size] = key
    this.#ids[this.#size] = id
    this.#next[this.#size] = this.#slots[slot] as number
    this.#slots[slot] = this.#size++
  }

  /** The first entry of a fingerprint; -1: there is none. */
  first(key: number): number {
    const entry = this.#slots[this.#slotOf(key)] as number
    return entry === NONE || this.#ids[entry] === NONE ? NONE : entry
  }

  next(entry: number): number {
    return this.#next[entry] as number
  }

  id(entry: number): number {
    return this.#ids[entry] as number
  }

  /** Forgets fingerprints that more than `most` rows share, and tells each of those rows. */
  forgetShared(most: number, tell: (id: number) => void): void {
    for (const first of this.#slots) {
      let count = 0
      for (let entry = first; entry !== NONE && count <= most; entry = this.next(entry)) count++
      if (count <= most) continue
      for (let entry = first; entry !== NONE; entry = this.next(entry)) tell(this.id(entry))
      // Its slot stays taken: others that wanted the same one are found behind it.
      this.#ids[first] = NONE
    }
  }

  #slotOf(key: number): number {
    const mask = this.#slots.length - 1
    const mixed = Math.imul(key ^ (key / 2 ** 32), SPREAD)
    let slot = (mixed ^ (mixed >>> 15)) & mask
    for (;;) {
      const entry = this.#slots[slot] as number
      if (entry === NONE || this.#keys[entry] === key) return slot
      slot = (slot + 1) & mask
    }
  }

  #growEntries(): void {
    const grow = <T extends Float64Array | Int32Array>(old: T, wider: T): T => {
      wider.set(old)
      return wider
    }
    const count = this.#size * 2
    this.#keys = grow(this.#keys, new Float64Array(count))
    this.#ids = grow(this.#ids, new Int32Array(count))
    this.#next = grow(this.#next, new Int32Array(count))
  }

  #growSlots(): void {
    const heads = this.#slots
    this.#slots = new Int32Array(heads.length * 2).fill(NONE)
    for (const entry of heads) if (entry !== NONE) this.#slots[this.#slotOf(this.#keys[entry] as number)] = entry
  }
}
