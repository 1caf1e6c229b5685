import { randomUUID } from 'node:crypto'
import { readdir, rename, rm, rmdir, stat } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { contentPath } from './layout.js'
import { writingTo } from './lock.js'
import { copiesIn, linesOf } from './place.js'

export interface Removal {
  copies: number
  /** Contents that no other copy has, and their bytes. */
  contents: number
  bytes: number
  /** False: all contents were kept, since another copy's listing is damaged and may need any of them. */
  swept: boolean
}

/**
 * Removes copies and what no other copy of their place needs. A copy is none any more before the first of its contents
 * goes; where it is broken off, contents that nobody needs are left, and no other copy is harmed.
 * @param folders folders of copies; others are passed over
 * @throws SourceError where the place cannot be used; the signal's reason when stopped
 */
export const removeCopies = (place: string, folders: readonly string[], signal?: AbortSignal): Promise<Removal> =>
  writingTo(place, async () => {
    const chosen = new Set(folders)
    const { copies, damaged } = await copiesIn(place)
    const going = copies.filter(({ folder }) => chosen.has(folder))
    for (const { folder } of going) {
      signal?.throwIfAborted()
      await rename(folder, join(dirname(folder), `${GOING}${basename(folder)}-${randomUUID()}`))
    }
    // Those too whose removal was broken off before.
    const leaving = await leavingIn(place)
    const sums = await contentsOf(leaving)
    const stay = copies.filter(({ folder }) => !chosen.has(folder))
    const swept = damaged.length === 0 && (await takeOutNeeded(sums, stay))
    const freed = swept ? await sweep(place, sums, signal) : { contents: 0, bytes: 0 }
    for (const folder of leaving) {
      await rm(folder, { recursive: true, force: true })
      await rmdir(dirname(folder)).catch(() => {})
    }
    return { copies: going.length, ...freed, swept }
  })

// No name of a copy begins with a dot.
const GOING = '.removed-'

async function leavingIn(place: string): Promise<string[]> {
  const found = await foldersBelow(join(place, 'copies'))
  return found.filter((folder) => basename(folder).startsWith(GOING))
}

/** All folders two levels below one. */
async function foldersBelow(top: string): Promise<string[]> {
  const names = (folder: string) => readdir(folder).catch(() => [])
  const below = await Promise.all(
    (await names(top)).map(async (device) => (await names(join(top, device))).map((name) => join(top, device, name))),
  )
  return below.flat()
}

async function contentsOf(folders: readonly string[]): Promise<Set<string>> {
  const sums = new Set<string>()
  for (const folder of folders)
    try {
      for await (const line of linesOf(folder)) if (line?.sha256) sums.add(line.sha256)
    } catch {
      // It was almost gone when its removal was broken off: what it alone had went before.
    }
  return sums
}

/** Takes the contents that copies need out of a set. False: a listing is damaged, and it cannot be told. */
async function takeOutNeeded(sums: Set<string>, copies: readonly { folder: string }[]): Promise<boolean> {
  for (const { folder } of copies)
    for await (const line of linesOf(folder)) {
      if (!line) return false
      if (line.sha256) sums.delete(line.sha256)
    }
  return true
}

async function sweep(place: string, sums: ReadonlySet<string>, signal?: AbortSignal) {
  let [contents, bytes] = [0, 0]
  for (const sum of sums) {
    signal?.throwIfAborted()
    const path = contentPath(place, sum)
    const found = await stat(path).catch(() => undefined)
    if (!found) continue
    await rm(path)
    contents++
    bytes += found.size
  }
  return { contents, bytes }
}
