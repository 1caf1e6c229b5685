import { randomUUID } from 'node:crypto'
import { cp, open, readdir, readFile, rename, rm, rmdir } from 'node:fs/promises'
import { basename, dirname, join, resolve, sep } from 'node:path'
import { syncFolder } from '../io/durable.js'
import { FormatError, messageOf, SourceError } from '../io/errors.js'
import { asUnreadable, FileSource } from '../io/file.js'
import { sideBySide } from '../io/side-by-side.js'
import { CopyChecker } from './check.js'
import { contentPath, PLACE_FILE, TAGS_FILE } from './layout.js'
import { writingTo } from './lock.js'
import { copiesIn, isCopy, makeFolder, openPlace, sayIfGone } from './place.js'
import { ContentStore } from './store.js'

export interface MoveOutcome {
  copies: number
  /** Contents that are not right in the new place, as each copy tells them: they were not before, or could not be read. */
  problems: { name: string; why: string }[]
}

export interface MoveOptions {
  signal?: AbortSignal
  /** Called after each content that was copied, and each copy that was checked. */
  progress?: (done: number, of: number) => void
}

// Many small files wait for the disk more than they are copied.
const AT_ONCE = 8

/**
 * Copies a place with all that it holds to another folder, and reads everything there again. Nothing is removed; begun
 * again after it was broken off, it uses what came.
 * @param to an empty or new folder, or one in which this was begun
 * @throws SourceError where one of the two cannot be used, or the new one holds another copy of the same state
 */
export async function copyPlace(
  from: string,
  to: string,
  { signal, progress = () => {} }: MoveOptions,
): Promise<MoveOutcome> {
  const [old, place] = [resolve(from), resolve(to)]
  if (`${place}${sep}`.startsWith(`${old}${sep}`) || `${old}${sep}`.startsWith(`${place}${sep}`))
    throw new SourceError('not-readable', 'A place of copies cannot be moved into itself.')
  await copiesIn(old)
  await openPlace(place)
  const folders = await copyFoldersIn(old)
  let done = 0
  const count = (of: number) => progress(++done, of)
  const contents = await writingTo(old, () =>
    writingTo(place, async () => {
      const sums = await contentsIn(old)
      await copyContents(old, new ContentStore(place, signal), sums, () => count(sums.length + folders.length))
      for (const folder of folders) await copyFolder(folder, join(place, 'copies', ...namesOf(folder)))
      await syncFolder(place)
      return sums.length
    }),
  ).catch((thrown) => sayIfGone(place, thrown))
  // What an earlier try left wrong there is set aside, so that the next one takes it anew.
  const checker = new CopyChecker(signal, true)
  const problems: MoveOutcome['problems'] = []
  for (const folder of folders) {
    problems.push(...(await checker.check(join(place, 'copies', ...namesOf(folder)))).problems)
    count(contents + folders.length)
  }
  return { copies: folders.length, problems }
}

/**
 * Removes a place that was moved, or what is left of it. Other files in its folder stay.
 * @throws SourceError where a copy was made in it that the new place does not have: nothing is removed then
 */
export async function removePlace(folder: string, movedTo: string): Promise<void> {
  const place = resolve(folder)
  const isThere = await readFile(join(place, PLACE_FILE)).catch(() => undefined)
  if (!isThere) return
  await writingTo(place, async () => {
    for (const copy of await copyFoldersIn(place))
      if (!(await isCopy(join(movedTo, 'copies', ...namesOf(copy)))))
        throw new SourceError('not-readable', `"${copy}" was made after the others were moved. It stays where it is.`)
    await rm(join(place, 'copies'), { recursive: true, force: true })
    await rm(join(place, 'content'), { recursive: true, force: true })
    // The last one: while it is there, a removal that was broken off can be done again.
    await rm(join(place, PLACE_FILE))
  })
  await rmdir(place).catch(() => {})
}

async function contentsIn(place: string): Promise<string[]> {
  const names = await readdir(join(place, 'content'), { recursive: true }).catch((thrown: NodeJS.ErrnoException) => {
    if (thrown.code === 'ENOENT') return []
    throw new SourceError('not-readable', `"${place}" cannot be read: ${messageOf(thrown)}.`, { cause: thrown })
  })
  return names.map((name) => basename(name)).filter((name) => /^[0-9a-f]{64}$/.test(name))
}

/** The folders of all copies, damaged ones too. */
async function copyFoldersIn(place: string): Promise<string[]> {
  const { copies, damaged } = await copiesIn(place)
  return [...copies, ...damaged].map(({ folder }) => folder)
}

/** Its device's folder, and its own. */
const namesOf = (folder: string) => [basename(dirname(folder)), basename(folder)]

/** A content that cannot be read is passed over: the check of the copies that need it tells it. */
async function copyContents(from: string, store: ContentStore, sums: readonly string[], count: () => void) {
  await sideBySide(sums, AT_ONCE, async (sum) => {
    store.signal?.throwIfAborted()
    if (!(await store.has(sum))) await copyContent(contentPath(from, sum), sum, store)
    count()
  })
  // Nothing can be read where the old disk was taken away: this throws then.
  await copiesIn(from)
}

async function copyContent(path: string, sum: string, store: ContentStore): Promise<void> {
  const source = await openIfReadable(path)
  try {
    if (source) await store.keep(source, sum)
  } catch (thrown) {
    // A fault of this content alone; where the new place takes nothing any more, the move ends.
    if (!(thrown instanceof FormatError)) throw thrown
  } finally {
    await source?.close()
  }
}

async function openIfReadable(path: string): Promise<FileSource | undefined> {
  try {
    return await FileSource.open(path)
  } catch (thrown) {
    if ((thrown as NodeJS.ErrnoException).code === 'ENOENT' || asUnreadable(thrown) instanceof FormatError)
      return undefined
    throw thrown
  }
}

async function copyFolder(from: string, to: string): Promise<void> {
  const [theirs, ours] = await Promise.all(
    [from, to].map((folder) => readFile(join(folder, TAGS_FILE), 'utf8').catch(() => undefined)),
  )
  if (ours !== undefined) {
    if (ours === theirs) return
    throw new SourceError('not-readable', `Another copy of that state lies in "${to}". Choose another folder.`)
  }
  const device = dirname(to)
  for (const made of [dirname(device), device]) await makeFolder(made)
  const staging = join(device, `.${basename(to)}-${randomUUID()}`)
  try {
    await cp(from, staging, { recursive: true, preserveTimestamps: true })
    for (const name of await readdir(staging)) await syncFile(join(staging, name))
    await rename(staging, to)
    for (const written of [to, device, dirname(device)]) await syncFolder(written)
  } finally {
    await rm(staging, { recursive: true, force: true })
  }
}

async function syncFile(path: string): Promise<void> {
  const handle = await open(path, 'r')
  await handle.datasync().finally(() => handle.close())
}
