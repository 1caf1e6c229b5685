import { createReadStream } from 'node:fs'
import { mkdir, readdir, readFile, stat, writeFile } from 'node:fs/promises'
import { dirname, join, resolve } from 'node:path'
import { createInterface } from 'node:readline'
import { syncFolder } from '../io/durable.js'
import { messageOf, SourceError } from '../io/errors.js'
import { wellFormed } from '../io/text.js'
import {
  COPY_FILE,
  type CopyHeader,
  type CopyLine,
  copyHeader,
  copyLine,
  LISTING_FILE,
  PLACE_FILE,
  PLACE_FORMAT,
  placeHeader,
} from './layout.js'

/** A copy in its place. */
export interface SafeCopy extends CopyHeader {
  folder: string
}

/** True where a folder is a copy. */
export const isCopy = (folder: string): Promise<boolean> => isFile(join(folder, COPY_FILE))
const isPlace = (folder: string): Promise<boolean> => isFile(join(folder, PLACE_FILE))
const isFile = (path: string) =>
  stat(path).then(
    (found) => found.isFile(),
    () => false,
  )

/**
 * Makes a folder in a place where it is not there yet, and only below one that is: where a disk was attached that is taken
 * away now, nothing may be written in its stead.
 */
export async function makeFolder(path: string): Promise<void> {
  await mkdir(path, { mode: 0o700 }).catch((thrown: NodeJS.ErrnoException) => {
    if (thrown.code !== 'EEXIST') throw thrown
  })
}

/** Why work in a place failed. @throws SourceError where the place is gone; else what was thrown */
export async function sayIfGone(place: string, thrown: unknown): Promise<never> {
  if (await isPlace(place)) throw thrown
  throw new SourceError(
    'not-found',
    `"${place}" went away while it was written to. The copies in it stay whole; begin again when it is back.`,
    { cause: thrown },
  )
}

/** The place in which a copy lies. */
export const placeOf = (copy: string): string => dirname(dirname(dirname(resolve(copy))))

/**
 * Makes sure that a folder is a place of copies: an empty or new one becomes one.
 * @throws SourceError where it holds something else, or cannot be written
 */
export async function openPlace(folder: string): Promise<string> {
  const place = resolve(folder)
  if (await isPlace(place)) {
    await headerOf(place)
    return place
  }
  try {
    await mkdir(place, { recursive: true, mode: 0o700 })
    if ((await readdir(place)).length > 0)
      throw new SourceError(
        'not-readable',
        `"${place}" holds other things. Name an empty folder, or a place of copies.`,
      )
    await writeFile(join(place, PLACE_FILE), `${JSON.stringify({ format: PLACE_FORMAT, version: 1 })}\n`, {
      mode: 0o600,
    })
    await syncFolder(place)
    return place
  } catch (thrown) {
    if (thrown instanceof SourceError) throw thrown
    throw new SourceError('not-readable', `"${place}" cannot be used: ${messageOf(thrown)}.`, { cause: thrown })
  }
}

async function headerOf(place: string): Promise<void> {
  try {
    placeHeader.parse(JSON.parse(await readFile(join(place, PLACE_FILE), 'utf8')))
  } catch (thrown) {
    throw new SourceError('not-readable', `"${join(place, PLACE_FILE)}" is of another version, or damaged.`, {
      cause: thrown,
    })
  }
}

/** All copies in a place, device by device, the oldest first. Ones that are damaged are told, not given. */
export async function copiesIn(
  folder: string,
): Promise<{ copies: SafeCopy[]; damaged: { folder: string; why: string }[] }> {
  const place = resolve(folder)
  if (!(await isPlace(place))) throw new SourceError('not-found', `"${place}" is no place of copies.`)
  await headerOf(place)
  const copies: SafeCopy[] = []
  const damaged: { folder: string; why: string }[] = []
  for (const device of await foldersIn(join(place, 'copies')))
    for (const copy of await foldersIn(device))
      try {
        copies.push(await readCopy(copy))
      } catch (thrown) {
        damaged.push({ folder: copy, why: messageOf(thrown) })
      }
  return { copies, damaged }
}

/**
 * Folders in the order of their names; those that begin with a dot are on their way.
 * @throws SourceError where a folder cannot be read: copies that are not seen there would be taken for removed
 */
async function foldersIn(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { withFileTypes: true }).catch((thrown: NodeJS.ErrnoException) => {
    if (thrown.code === 'ENOENT') return []
    throw new SourceError('not-readable', `"${folder}" cannot be read: ${messageOf(thrown)}.`, { cause: thrown })
  })
  return entries
    .filter((entry) => entry.isDirectory() && !entry.name.startsWith('.'))
    .map(({ name }) => join(folder, name))
    .sort()
}

/** What a copy says of itself. @throws SourceError where it cannot be read */
export async function readCopy(folder: string): Promise<SafeCopy> {
  try {
    const header = copyHeader.parse(wellFormed(JSON.parse(await readFile(join(folder, COPY_FILE), 'utf8'))))
    return { ...header, folder: resolve(folder) }
  } catch (thrown) {
    throw new SourceError('not-readable', `The copy in "${folder}" cannot be read: its ${COPY_FILE} is damaged.`, {
      cause: thrown,
    })
  }
}

/** The listing of a copy, line by line; undefined for a line that is damaged. */
export async function* linesOf(folder: string): AsyncGenerator<CopyLine | undefined> {
  const input = createReadStream(join(folder, LISTING_FILE))
  for await (const text of createInterface({ input, crlfDelay: Number.POSITIVE_INFINITY })) {
    if (text !== '') yield parsed(text)
  }
}

function parsed(text: string): CopyLine | undefined {
  try {
    return copyLine.parse(wellFormed(JSON.parse(text)))
  } catch {
    return undefined
  }
}
