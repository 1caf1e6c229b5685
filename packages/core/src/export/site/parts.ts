import type { BagWriter } from '../bag.js'
import { PART_CALL } from './shapes.js'

/** The folder of the pages' scripts and data, in the payload. */
export const SITE = 'site'

/** A part of the pages' data as a script (ECMA-262: since 2019 all of JSON is a script's expression). */
const scriptOf = (name: string, value: unknown): string =>
  `${PART_CALL}(${JSON.stringify(name)},${JSON.stringify(value)})\n`

/** Writes a part of the pages' data into a package. */
export async function writePart(bag: BagWriter, name: string, value: unknown): Promise<void> {
  await bag.write(`${SITE}/${name}.js`, scriptOf(name, value))
}

/** Writes what comes one by one as parts of a bounded size: `<name>-0`, `<name>-1` and so on. */
export class Parts<T> {
  #values: T[] = []
  #weight = 0
  #count = 0

  /** `most`: a part ends once its values weigh so much together. */
  constructor(
    readonly bag: BagWriter,
    readonly name: string,
    readonly most: number,
  ) {}

  /** Takes a value. @returns in which part it lies, and where there */
  async add(value: T, weight = 1): Promise<{ part: number; at: number }> {
    const place = { part: this.#count, at: this.#values.length }
    this.#values.push(value)
    this.#weight += weight
    if (this.#weight >= this.most) await this.finish()
    return place
  }

  async finish(): Promise<void> {
    if (this.#values.length === 0) return
    await writePart(this.bag, `${this.name}-${this.#count}`, this.#values)
    this.#count++
    this.#values = []
    this.#weight = 0
  }
}
