import { type CopyLine, fileKey } from './layout.js'
import { linesOf, type SafeCopy } from './place.js'

/** What came, changed and went between two copies of a device, and what one of them alone keeps on the disk. */
export interface CopyDifference {
  added: number
  changed: number
  gone: number
}

/** A copy with what it changed. */
export interface CopyWithChanges extends SafeCopy, CopyDifference {
  /** Bytes of contents that no other copy of the place has: what its removal would give. */
  bytesAlone: number
}

type Sums = Map<string, string | null>

/** Each copy beside the one before it of the same device, in the order in which they are given. */
export async function withChanges(copies: readonly SafeCopy[]): Promise<CopyWithChanges[]> {
  const holders = new Map<string, { copies: number; bytes: number }>()
  const sumsOf = new Map<SafeCopy, Set<string>>()
  const changes: CopyDifference[] = []
  let before: { copy: SafeCopy; files: Sums } | undefined
  for (const copy of copies) {
    const files: Sums = new Map()
    const sums = new Set<string>()
    for await (const line of linesOf(copy.folder)) {
      if (line?.kind !== 'file') continue
      files.set(fileKey(line), line.sha256)
      if (line.sha256 === null || sums.has(line.sha256)) continue
      sums.add(line.sha256)
      const holder = holders.get(line.sha256) ?? { copies: 0, bytes: line.size ?? 0 }
      holders.set(line.sha256, { ...holder, copies: holder.copies + 1 })
    }
    sumsOf.set(copy, sums)
    const isSameDevice = before?.copy.uniqueId === copy.uniqueId
    changes.push(difference(isSameDevice ? before?.files : undefined, files))
    before = { copy, files }
  }
  return copies.map((copy, i) => ({
    ...copy,
    ...(changes[i] as CopyDifference),
    bytesAlone: [...(sumsOf.get(copy) ?? [])].reduce((sum, one) => {
      const holder = holders.get(one)
      return holder?.copies === 1 ? sum + holder.bytes : sum
    }, 0),
  }))
}

/** A file in which two copies differ. */
export interface DifferentFile {
  change: 'added' | 'changed' | 'gone'
  domain: string
  path: string
  /** Bytes of the later one, or of what went. */
  size: number | null
}

/** What came, changed and went from one copy to another, in the order of their listings. */
export async function* differentFiles(from: SafeCopy, to: SafeCopy): AsyncGenerator<DifferentFile> {
  const before = new Map<string, CopyLine>()
  for await (const line of linesOf(from.folder)) if (line?.kind === 'file') before.set(fileKey(line), line)
  for await (const line of linesOf(to.folder)) {
    if (line?.kind !== 'file') continue
    const { domain, path, size, sha256 } = line
    const earlier = before.get(fileKey(line))
    before.delete(fileKey(line))
    if (!earlier) yield { change: 'added', domain, path, size }
    else if (earlier.sha256 !== sha256) yield { change: 'changed', domain, path, size }
  }
  for (const { domain, path, size } of before.values()) yield { change: 'gone', domain, path, size }
}

function difference(before: Sums = new Map(), after: Sums): CopyDifference {
  let [added, changed] = [0, 0]
  for (const [key, sum] of after)
    if (!before.has(key)) added++
    else if (before.get(key) !== sum) changed++
  const gone = [...before.keys()].filter((key) => !after.has(key)).length
  return { added, changed, gone }
}
