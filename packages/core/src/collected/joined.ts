import type { SourceEntry, SourceInfo, SourceTree } from '../backup/types.js'

/** Several trees of one device as one: what an earlier one holds hides the same place of a later one. */
export class JoinedTree implements SourceTree {
  constructor(
    readonly info: SourceInfo,
    readonly trees: readonly SourceTree[],
  ) {}

  get fileCount() {
    let count = 0
    for (const _ of this.entries()) count++
    return count
  }

  find(domain: string, path: string): SourceEntry | undefined {
    for (const tree of this.trees) {
      const entry = tree.find(domain, path)
      if (entry) return entry
    }
    return undefined
  }

  *entries(): Iterable<SourceEntry> {
    for (const [index, tree] of this.trees.entries())
      for (const entry of tree.entries())
        if (!this.trees.slice(0, index).some((earlier) => earlier.find(entry.domain, entry.path))) yield entry
  }

  async strays() {
    return (await Promise.all(this.trees.map((tree) => tree.strays()))).flat()
  }

  open(entry: SourceEntry) {
    return this.#first(entry, (tree, found) => tree.open(found))
  }

  contentSize(entry: SourceEntry) {
    return this.#first(entry, (tree, found) => tree.contentSize(found))
  }

  storedBytes(entry: SourceEntry) {
    return this.#first(entry, (tree, found) => tree.storedBytes(found))
  }

  storedPath(entry: SourceEntry) {
    return this.#first(entry, (tree, found) => tree.storedPath(found))
  }

  /** One tree may list what only another one holds. */
  async #first<T>(
    { domain, path }: SourceEntry,
    ask: (tree: SourceTree, entry: SourceEntry) => Promise<T | undefined>,
  ): Promise<T | undefined> {
    for (const tree of this.trees) {
      const entry = tree.find(domain, path)
      const answer = entry && (await ask(tree, entry))
      if (answer !== undefined) return answer
    }
    return undefined
  }

  opens(entry: SourceEntry): boolean {
    return this.trees.some((tree) => tree.opens(entry))
  }

  unwrap(protection: number, wrapped: Uint8Array) {
    for (const tree of this.trees) {
      const key = tree.unwrap(protection, wrapped)
      if (key) return key
    }
    return undefined
  }

  async close() {
    await Promise.all(this.trees.map((tree) => tree.close()))
  }
}
