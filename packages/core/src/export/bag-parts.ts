import { readdir, rename, rm } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { syncFolder } from '../io/durable.js'
import { makeFolderBelow } from './bag-place.js'
import { listedIn, manifestLines, type TagsWanted, tagsFor } from './bag-tags.js'
import { type BagFile, type Listed, PAYLOAD, type PartStarts, type Tag } from './bag-types.js'

/** Lists all files of all parts, in each part: laid together in one folder they are one package again. */
export const WHOLE_MANIFEST = 'manifest-of-all-parts.txt'

// What a file system takes for itself, and what lies beside the payload: receipt and page of the first part, its lists.
const FOR_FILES = 0.98
const BESIDE = 120_000

/** The folder of a part. */
export const partName = (number: number, count: number): string => `part ${number} of ${count}`

/** The folders of the parts of a package that was split, in their order; none: it was not. */
export async function partsIn(folder: string): Promise<string[]> {
  const names = await readdir(folder).catch(() => [])
  const numbered = names.flatMap((name) => {
    const [, number, count] = /^part (\d+) of (\d+)$/.exec(name) ?? []
    return number && count ? [{ number: Number(number), count: Number(count) }] : []
  })
  const count = numbered[0]?.count ?? 0
  // A part that is gone is one that is looked for.
  return Array.from({ length: Math.min(count, 1000) }, (_, i) => partName(i + 1, count))
}

/** What a package is looked at by: reports, tables of everything, pages. All else is content. */
const isOverview = ({ path }: BagFile): boolean => path.split('/').length === 2 || path.startsWith(`${PAYLOAD}/site/`)

/**
 * The files of each part, none larger than `bytes` but where a single file is. What the package is looked at by comes
 * first, so that it lies in the first part; content follows in the order of its paths, by UTF-16 code units.
 */
export function planParts(files: readonly BagFile[], bytes: number): BagFile[][] {
  // Each part lists its own files, and those of all.
  const most = bytes * FOR_FILES - BESIDE - 2 * manifestLines(files).length
  const content = files.filter((file) => !isOverview(file)).sort((a, b) => (a.path < b.path ? -1 : 1))
  const ordered = [...files.filter(isOverview), ...content]
  const parts: BagFile[][] = [[]]
  let room = most
  for (const file of ordered) {
    if (file.bytes > room && (parts.at(-1)?.length ?? 0) > 0) {
      parts.push([])
      room = most
    }
    parts.at(-1)?.push(file)
    room -= file.bytes
  }
  return parts
}

export const startsOf = (parts: readonly (readonly BagFile[])[]): PartStarts =>
  parts.map((files) => files.find((file) => !isOverview(file))?.path ?? null)

/** What lies at the tops of parts, beside the lists that each bag has. */
export interface PartTops {
  /** Of the first part. */
  first: (listed: Listed, starts: PartStarts) => Promise<Tag[]>
  /** Of each of the others, by its number. */
  further: (number: number, count: number) => Tag[]
}

/**
 * Makes a bag of each part out of a payload that lies in a folder: files are moved, not copied.
 */
export async function splitInto(
  folder: string,
  parts: readonly BagFile[][],
  { labels, signer }: Omit<TagsWanted, 'files' | 'beside'>,
  tops: PartTops,
  write: (folder: string, name: string, content: Tag[1]) => Promise<void>,
): Promise<void> {
  const all = parts.flat()
  const whole: Tag = [WHOLE_MANIFEST, manifestLines(all)]
  const listed = { ...listedIn(all), name: WHOLE_MANIFEST }
  for (const [i, files] of parts.entries()) {
    const name = partName(i + 1, parts.length)
    for (const { path } of files) {
      await makeFolderBelow(folder, dirname(join(name, path)))
      await rename(join(folder, path), join(folder, name, path))
    }
    const more = i === 0 ? await tops.first(listed, startsOf(parts)) : tops.further(i + 1, parts.length)
    const numbered = { ...labels, 'Bag-Count': `${i + 1} of ${parts.length}` }
    await makeFolderBelow(folder, name)
    for (const [tag, content] of tagsFor({ files, labels: numbered, signer, beside: [whole, ...more] }))
      await write(join(folder, name), tag, content)
    await syncFolder(join(folder, name))
  }
  await rm(join(folder, PAYLOAD), { recursive: true, force: true })
}
