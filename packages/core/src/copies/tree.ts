import { stat } from 'node:fs/promises'
import type { SourceEntry, SourceInfo, SourceTree } from '../backup/types.js'
import type { Report } from '../io/errors.js'
import { asUnreadable, FileSource } from '../io/file.js'
import type { ByteSource } from '../io/source.js'
import { contentPath, fileKey } from './layout.js'
import { linesOf, placeOf, readCopy, type SafeCopy } from './place.js'

/** What a copy says of itself as a source. @throws SourceError */
export async function copyInfo(folder: string): Promise<SourceInfo> {
  const { kind, deviceName, productType, osVersion, uniqueId, serialNumber, takenAt, installedApps, only, missing } =
    await readCopy(folder)
  return {
    ...{ kind, deviceName, productType, osVersion, uniqueId, serialNumber, takenAt, installedApps },
    ...(only && { only }),
    layout: 'copied',
    path: folder,
    // Contents lie open in it, however they lay in its source.
    encrypted: false,
    complete: missing === 0,
  }
}

/** Opens a copy as a source like any other. @throws SourceError where it cannot be read */
export async function openCopy(folder: string, report: Report): Promise<SourceTree> {
  const copy = await readCopy(folder)
  const entries: CopiedEntry[] = []
  let broken = 0
  for await (const line of linesOf(folder))
    if (line) entries.push({ ...line, key: null })
    else broken++
  if (broken > 0)
    report({
      code: 'listing-damaged',
      message: `${broken} lines of the copy’s listing are damaged; their files are not shown.`,
    })
  return new CopyTree(await copyInfo(folder), copy, entries)
}

interface CopiedEntry extends SourceEntry {
  sha256: string | null
}

class CopyTree implements SourceTree {
  readonly #byPlace = new Map<string, CopiedEntry>()

  constructor(
    readonly info: SourceInfo,
    readonly copy: SafeCopy,
    readonly list: readonly CopiedEntry[],
  ) {
    for (const entry of list) this.#byPlace.set(fileKey(entry), entry)
  }

  get fileCount() {
    return this.list.length
  }

  find(domain: string, path: string): CopiedEntry | undefined {
    return this.#byPlace.get(fileKey({ domain, path }))
  }

  entries() {
    return this.list
  }

  async strays(): Promise<SourceEntry[]> {
    return []
  }

  async open(entry: SourceEntry): Promise<ByteSource | undefined> {
    const path = this.#pathOf(entry)
    if (!path || (await this.storedBytes(entry)) === undefined) return undefined
    return FileSource.open(path).catch((thrown: unknown) => {
      throw asUnreadable(thrown)
    })
  }

  #pathOf({ domain, path }: SourceEntry): string | undefined {
    const sum = this.find(domain, path)?.sha256
    return sum ? contentPath(placeOf(this.copy.folder), sum) : undefined
  }

  contentSize(entry: SourceEntry): Promise<number | undefined> {
    return this.storedBytes(entry)
  }

  async storedBytes(entry: SourceEntry): Promise<number | undefined> {
    const path = this.#pathOf(entry)
    if (!path) return undefined
    return stat(path).then(
      (found) => found.size,
      () => undefined,
    )
  }

  async storedPath(entry: SourceEntry): Promise<string | undefined> {
    return (await this.storedBytes(entry)) === undefined ? undefined : this.#pathOf(entry)
  }

  opens(): boolean {
    return true
  }

  unwrap(): undefined {
    return undefined
  }

  async close() {}
}
