import { randomUUID } from 'node:crypto'
import { open, readdir, readFile, rename, rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { SourceEntry, SourceTree } from '../backup/types.js'
import { syncFolder } from '../io/durable.js'
import { FormatError, messageOf, type Report, SourceError } from '../io/errors.js'
import { digest } from '../io/hash.js'
import {
  CONTENTS_FILE,
  COPY_FILE,
  COPY_FORMAT,
  type CopyHeader,
  type CopyLine,
  contentFromCopy,
  contentPath,
  fileKey,
  LISTING_FILE,
  stateName,
  TAGS_FILE,
} from './layout.js'
import { writingTo } from './lock.js'
import { copiesIn, linesOf, makeFolder, openPlace, readCopy, type SafeCopy, sayIfGone } from './place.js'
import { ContentStore } from './store.js'

export interface CopyOptions {
  report: Report
  /** Categories that the copy can hold where that does not follow from its kind; undefined: it does. */
  only?: readonly string[] | undefined
  /** Reads every content, those too that by size and time are what they were in the copy before. */
  thorough?: boolean
  signal?: AbortSignal
  /** Called after each file with how many are done. */
  progress?: (done: number, of: number) => void
}

export interface CopyOutcome {
  copy: SafeCopy
  /** False: this state was copied before, with no content missing that could be had now. */
  made: boolean
  /** Contents that no earlier copy had, and their bytes. */
  newContents: number
  newBytes: number
}

// Many small files wait for the disk more than they are copied.
const AT_ONCE = 8

/**
 * Copies a state of a device into a place: contents that lie there already are not written again, and files that by size
 * and time are those of the copy before are not read again. The copy appears once all of it is on the disk; what an
 * earlier try wrote of its contents is used.
 * @throws SourceError where the place or the source cannot be used; the signal's reason when stopped
 */
export async function makeCopy(tree: SourceTree, to: string, options: CopyOptions): Promise<CopyOutcome> {
  const { takenAt } = tree.info
  if (!takenAt)
    throw new SourceError('not-readable', 'This source does not say of when it is: a copy of it would have no date.')
  const place = await openPlace(to)
  return writingTo(place, () => makeIn(place, tree, takenAt, options)).catch((thrown) => sayIfGone(place, thrown))
}

async function makeIn(place: string, tree: SourceTree, takenAt: Date, options: CopyOptions): Promise<CopyOutcome> {
  const device = join(place, 'copies', deviceFolder(tree))
  const folder = join(device, stateName(takenAt))
  const earlier = (await stat(folder).catch(() => undefined)) ? await readCopy(folder) : undefined
  if (earlier?.missing === 0 && (await hasAll(place, earlier)))
    return { copy: earlier, made: false, newContents: 0, newBytes: 0 }
  await removeLeftovers(place)
  const before = earlier ?? (await copiesIn(place)).copies.filter((copy) => dirname(copy.folder) === device).at(-1)
  const store = new ContentStore(place, options.signal)
  const lines = await copyAll(tree, store, before && !options.thorough ? await known(before) : new Map(), options)
  const header = headerOf(tree, takenAt, lines, options)
  if (header.missing > 0) await requireSource(tree)
  const { newContents, newBytes } = store
  if (earlier && header.missing >= earlier.missing) return { copy: earlier, made: false, newContents, newBytes }
  const staging = join(device, `.${stateName(takenAt)}-${randomUUID()}`)
  try {
    for (const made of [dirname(device), device, staging]) await makeFolder(made)
    await writeListing(staging, lines, header)
    // The one that lacked more goes.
    if (earlier) await rm(folder, { recursive: true })
    await rename(staging, folder)
    for (const written of [device, dirname(device), place]) await syncFolder(written)
  } finally {
    await rm(staging, { recursive: true, force: true })
  }
  return { copy: await readCopy(folder), made: true, newContents, newBytes }
}

/** False: contents of a copy are gone, or were set aside since they were not what they had been. */
async function hasAll(place: string, { folder }: SafeCopy): Promise<boolean> {
  for await (const line of linesOf(folder))
    if (line?.sha256 && !(await stat(contentPath(place, line.sha256)).catch(() => undefined))) return false
  return true
}

/** The folder of a device's copies. It is named after the device's id, since owners change the device's name. */
const deviceFolder = ({ info }: SourceTree) =>
  info.uniqueId
    ? info.uniqueId
        .toLowerCase()
        .replace(/[^0-9a-z-]/g, '_')
        .slice(0, 80)
    : 'unknown-device'

/** What a source that went away does not give is not missing in it. @throws SourceError where it is gone */
async function requireSource({ info }: SourceTree): Promise<void> {
  if (await stat(info.path).catch(() => undefined)) return
  throw new SourceError(
    'not-found',
    `"${info.path}" went away while it was copied. What came is kept; make the copy again when it is back.`,
  )
}

// Milliseconds. A copy that is made at this moment by somebody else writes to its files all the time.
const LEFT_BEHIND = 86_400_000

/** Removes contents that were on their way when a copy was cut off. */
async function removeLeftovers(place: string): Promise<void> {
  const folder = join(place, 'content')
  for (const name of await readdir(folder).catch(() => [])) {
    if (!name.startsWith('.')) continue
    const found = await stat(join(folder, name)).catch(() => undefined)
    if (found && found.mtimeMs < Date.now() - LEFT_BEHIND) await rm(join(folder, name), { force: true })
  }
}

/** The files of a copy by their places. */
async function known(copy: SafeCopy): Promise<Map<string, CopyLine>> {
  const lines = new Map<string, CopyLine>()
  for await (const line of linesOf(copy.folder)) if (line?.sha256) lines.set(fileKey(line), line)
  return lines
}

async function copyAll(
  tree: SourceTree,
  store: ContentStore,
  before: ReadonlyMap<string, CopyLine>,
  { progress = () => {}, signal, report }: CopyOptions,
): Promise<CopyLine[]> {
  const entries = [...tree.entries()]
  const lines: CopyLine[] = []
  let next = 0
  const work = async () => {
    for (let i = next++; i < entries.length; i = next++) {
      signal?.throwIfAborted()
      const entry = entries[i] as SourceEntry
      const known = before.get(fileKey(entry))
      const sum = entry.kind === 'file' ? await sumOf(tree, entry, store, known, report) : null
      const { id, domain, path, kind, target, size, modifiedAt, createdAt } = entry
      lines[i] = { id, domain, path, kind, target, size, modifiedAt, createdAt, sha256: sum }
      progress(i + 1, entries.length)
    }
  }
  const workers = await Promise.allSettled(Array.from({ length: AT_ONCE }, work))
  for (const ended of workers) if (ended.status === 'rejected') throw ended.reason
  return lines
}

/** The sum of an entry's content, which lies in the place then; null: the source does not give it, which is told. */
async function sumOf(
  tree: SourceTree,
  entry: SourceEntry,
  store: ContentStore,
  before: CopyLine | undefined,
  report: Report,
): Promise<string | null> {
  if (before?.sha256 && isUnchanged(entry, before) && (await store.has(before.sha256))) return before.sha256
  const tell = (why: string) => {
    report({ code: 'file-unreadable', message: `Not copied: ${why}.`, path: `${entry.domain}/${entry.path}` })
    return null
  }
  try {
    const source = await tree.open(entry)
    if (!source) return tell('the source lists it and does not hold it')
    try {
      return await store.keep(source)
    } finally {
      await source.close()
    }
  } catch (thrown) {
    if (thrown instanceof FormatError) return tell(messageOf(thrown))
    throw thrown
  }
}

/** By size and time, as general programs that keep two folders alike go by them. */
const isUnchanged = (entry: SourceEntry, before: CopyLine) =>
  entry.modifiedAt !== null && entry.size === before.size && entry.modifiedAt.getTime() === before.modifiedAt?.getTime()

function headerOf(
  { info }: SourceTree,
  takenAt: Date,
  lines: readonly CopyLine[],
  { only = info.only }: CopyOptions,
): CopyHeader {
  const { kind, deviceName, productType, osVersion, uniqueId, serialNumber, installedApps } = info
  const files = lines.filter((line) => line.kind === 'file')
  const copied = files.filter((line) => line.sha256 !== null)
  return {
    ...{ format: COPY_FORMAT, version: 1, madeAt: new Date(), takenAt },
    ...{ kind, deviceName, productType, osVersion, uniqueId, serialNumber, installedApps },
    ...(only && { only: [...only] }),
    files: copied.length,
    bytes: copied.reduce((sum, { size }) => sum + (size ?? 0), 0),
    missing: files.length - copied.length,
  }
}

async function writeListing(folder: string, lines: readonly CopyLine[], header: CopyHeader): Promise<void> {
  const sums = [...new Set(lines.flatMap(({ sha256 }) => sha256 ?? []))].sort()
  await writeSynced(join(folder, LISTING_FILE), lines.map((line) => `${JSON.stringify(line)}\n`).join(''))
  await writeSynced(join(folder, CONTENTS_FILE), sums.map((sum) => `${sum}  ${contentFromCopy(sum)}\n`).join(''))
  await writeSynced(join(folder, COPY_FILE), `${JSON.stringify(header, null, 2)}\n`)
  const tags = [COPY_FILE, LISTING_FILE, CONTENTS_FILE]
  const tagLines = await Promise.all(
    tags.map(async (name) => `${digest('sha256', await readFile(join(folder, name)))}  ${name}\n`),
  )
  await writeSynced(join(folder, TAGS_FILE), tagLines.join(''))
  await syncFolder(folder)
}

async function writeSynced(path: string, text: string): Promise<void> {
  const handle = await open(path, 'wx', 0o600)
  try {
    await handle.writeFile(text)
    await handle.datasync()
  } finally {
    await handle.close()
  }
}
