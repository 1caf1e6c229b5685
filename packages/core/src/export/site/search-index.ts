import { createReadStream, createWriteStream } from 'node:fs'
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { pipeline } from 'node:stream/promises'
import type { BagWriter } from '../bag.js'
import { Parts } from './parts.js'
import type { SiteWords } from './shapes.js'
import { wordsOf } from './words.js'

// Postings (word and item) held in memory before a run is written to the disk; words indexed of one item; postings and words
// of a part, which a browser loads at once.
const MOST_HELD = 200_000
const MOST_WORDS = 3000
const MOST_A_PART = 60_000
const WORD_WEIGHT = 4

/**
 * The index of words of a package's pages: sorted runs that are merged at the end, so that memory stays bounded
 * (single-pass in-memory indexing: Manning, Raghavan and Schütze, Introduction to Information Retrieval, section 4.3).
 */
export class SearchIndex {
  #held = new Map<string, number[]>()
  #count = 0
  readonly #runs: string[] = []

  /** `folder`: for the runs; it is removed at the end. `mostHeld`: postings held in memory. */
  constructor(
    readonly folder: string,
    readonly mostHeld = MOST_HELD,
  ) {}

  /** Indexes the text of an item. Items come in the order of their numbers. */
  async add(number: number, text: string): Promise<void> {
    let left = MOST_WORDS
    for (const word of wordsOf(text)) {
      if (left-- === 0) break
      const numbers = this.#held.get(word)
      if (numbers) numbers.push(number)
      else this.#held.set(word, [number])
      this.#count++
    }
    if (this.#count >= this.mostHeld) await this.#writeRun()
  }

  /** Writes the parts. @returns the first word of each */
  async finish(bag: BagWriter): Promise<string[]> {
    await this.#writeRun()
    const parts = new Parts<SiteWords[number]>(bag, 'words', MOST_A_PART)
    const firsts: string[] = []
    for await (const [word, numbers] of merged(this.#runs)) {
      const { part } = await parts.add([word, distances(numbers)], WORD_WEIGHT + numbers.length)
      firsts[part] ??= word
    }
    await parts.finish()
    await rm(this.folder, { recursive: true, force: true })
    return firsts
  }

  async #writeRun(): Promise<void> {
    if (this.#held.size === 0) return
    await mkdir(this.folder, { recursive: true })
    const path = join(this.folder, `run-${this.#runs.length}`)
    const held = this.#held
    await pipeline(
      function* () {
        for (const word of [...held.keys()].sort()) yield `${word}\t${held.get(word)?.join(',')}\n`
      },
      createWriteStream(path, { mode: 0o600 }),
    )
    this.#runs.push(path)
    this.#held = new Map()
    this.#count = 0
  }
}

const distances = (numbers: readonly number[]): number[] => numbers.map((n, i) => n - (numbers[i - 1] ?? 0))

/** Words of all runs in their order, each with all of its numbers: those of an earlier run are smaller. */
async function* merged(runs: readonly string[]): AsyncGenerator<[word: string, numbers: number[]]> {
  const readers = runs.map((path) => new Run(path))
  for (const reader of readers) await reader.next()
  for (;;) {
    let word: string | undefined
    for (const reader of readers)
      if (reader.word !== undefined && (word === undefined || reader.word < word)) word = reader.word
    if (word === undefined) return
    const numbers: number[] = []
    for (const reader of readers) {
      if (reader.word !== word) continue
      for (const number of reader.numbers) numbers.push(number)
      await reader.next()
    }
    yield [word, numbers]
  }
}

/** A run while it is read, word by word. */
class Run {
  readonly #lines: AsyncIterator<string>
  word: string | undefined
  numbers: number[] = []

  constructor(path: string) {
    this.#lines = createInterface({ input: createReadStream(path), crlfDelay: Number.POSITIVE_INFINITY })[
      Symbol.asyncIterator
    ]()
  }

  async next(): Promise<void> {
    const { value, done } = await this.#lines.next()
    const [word, numbers = ''] = done ? [] : String(value).split('\t')
    this.word = word
    this.numbers = numbers.split(',').map(Number)
  }
}
