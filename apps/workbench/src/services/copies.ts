import { apart, COPY_LIMITS } from '@lumbrin/core/media/fingerprint'
import { NeighbourIndex } from '@lumbrin/core/media/neighbours'
import type { Db } from '../database/connection.js'
import { copyLines, countPrints, type FoundPrint, namesakesOf, printsOf } from '../database/fingerprints.js'
import type { Copy, CopyReason } from '../domain/finding.js'
import type { FindingId, JobId } from '../domain/ids.js'
import { requireFinding } from './content.js'

interface Prints {
  count: number
  list: FoundPrint[]
  /** Positions in the list of those that have a fingerprint, and the index over them. */
  at: number[]
  index: NeighbourIndex
}

// The index of a job is made when somebody asks, and kept while no fingerprint is added.
const kept = new Map<number, Prints>()
const MOST_KEPT = 3

async function indexOf(db: Db, jobId: JobId): Promise<Prints> {
  const count = await countPrints(db, jobId)
  const known = kept.get(jobId)
  if (known?.count === count) return known
  const list = await printsOf(db, jobId)
  const at = list.flatMap(({ coarse }, position) => (coarse === null ? [] : [position]))
  const made = { count, list, at, index: new NeighbourIndex(at.map((position) => list[position]?.coarse ?? 0n)) }
  kept.delete(jobId)
  kept.set(jobId, made)
  for (const oldest of kept.keys()) if (kept.size > MOST_KEPT) kept.delete(oldest)
  return made
}

/** Copies of a picture among the findings of its job, the largest first. @throws AppError('not-found') */
export async function copiesOf(db: Db, findingId: FindingId): Promise<Copy[]> {
  const finding = await requireFinding(db, findingId)
  const prints = await indexOf(db, finding.jobId)
  const reasons = new Map<FindingId, CopyReason>()
  for (const id of await namesakesOf(db, finding.jobId, finding)) reasons.set(id, 'same-name')
  for (const id of likenessesOf(prints, findingId)) reasons.set(id, 'looks-the-same')
  for (const id of sameBytesAs(prints, findingId)) reasons.set(id, 'same-bytes')
  const largest = new Map<number, FoundPrint>()
  for (const print of prints.list)
    if (pixels(print) >= pixels(largest.get(print.findingId))) largest.set(print.findingId, print)
  const copies = (await copyLines(db, finding.jobId, [...reasons.keys()])).map((line) => ({
    ...line,
    reason: reasons.get(line.id) as CopyReason,
    width: largest.get(line.id)?.width ?? null,
    height: largest.get(line.id)?.height ?? null,
  }))
  return copies.sort((a, b) => pixels(b) - pixels(a) || b.bytes - a.bytes || a.id - b.id)
}

/**
 * Pictures that look the same, or are: pairs of a finding and its stack, named by the smallest id in it. What is in no
 * stack is left out.
 */
export async function stacksOf(db: Db, jobId: JobId): Promise<[FindingId, FindingId][]> {
  const prints = await indexOf(db, jobId)
  const stacks = new Stacks()
  const byHash = new Map<string, FindingId>()
  for (const { sha256, findingId } of prints.list) {
    const same = sha256 === null ? undefined : byHash.get(sha256)
    if (same !== undefined) stacks.join(same, findingId)
    else if (sha256 !== null) byHash.set(sha256, findingId)
  }
  for (const position of prints.at.keys()) {
    const mine = (prints.list[prints.at[position] as number] as FoundPrint).findingId
    for (const other of looksLike(prints, position)) stacks.join(mine, other)
  }
  return stacks.members()
}

/** Sets that grow together (union by the smallest member, paths halved on the way). */
class Stacks {
  readonly #above = new Map<FindingId, FindingId>()

  #top(id: FindingId): FindingId {
    let at = id
    for (let above = this.#above.get(at); above !== undefined && above !== at; above = this.#above.get(at)) {
      this.#above.set(at, this.#above.get(above) ?? above)
      at = above
    }
    return at
  }

  join(one: FindingId, other: FindingId): void {
    const [low, high] = [this.#top(one), this.#top(other)].sort((a, b) => a - b) as [FindingId, FindingId]
    this.#above.set(low, low)
    this.#above.set(high, low)
  }

  members(): [FindingId, FindingId][] {
    const tops = [...this.#above.keys()].map((id): [FindingId, FindingId] => [id, this.#top(id)])
    const sizes = new Map<FindingId, number>()
    for (const [, top] of tops) sizes.set(top, (sizes.get(top) ?? 0) + 1)
    return tops.filter(([, top]) => (sizes.get(top) ?? 0) > 1)
  }
}

const pixels = (one: { width: number | null; height: number | null } | undefined) =>
  (one?.width ?? 0) * (one?.height ?? 0)

function sameBytesAs({ list }: Prints, findingId: FindingId): FindingId[] {
  const hashes = new Set(list.filter((print) => print.findingId === findingId).map(({ sha256 }) => sha256))
  return list
    .filter(({ sha256, findingId: id }) => id !== findingId && hashes.has(sha256))
    .map((print) => print.findingId)
}

function likenessesOf(prints: Prints, findingId: FindingId): FindingId[] {
  return [...prints.at.entries()].flatMap(([position, of]) =>
    prints.list[of]?.findingId === findingId ? looksLike(prints, position) : [],
  )
}

/** Findings that look like the one whose fingerprint stands at this position of the index. */
function looksLike({ list, at, index }: Prints, position: number): FindingId[] {
  const mine = list[at[position] as number]
  if (!mine?.fine) return []
  const found: FindingId[] = []
  for (const near of index.near(position, COPY_LIMITS.coarse)) {
    const other = list[at[near] as number]
    if (other?.fine && other.findingId !== mine.findingId && apart(mine.fine, other.fine) <= COPY_LIMITS.fine)
      found.push(other.findingId)
  }
  return found
}
