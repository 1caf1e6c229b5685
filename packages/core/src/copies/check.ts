import { randomUUID } from 'node:crypto'
import { readFile, rename } from 'node:fs/promises'
import { join } from 'node:path'
import { messageOf } from '../io/errors.js'
import { FileSource } from '../io/file.js'
import { digest, sha256Of } from '../io/hash.js'
import { contentPath, TAGS_FILE } from './layout.js'
import { writingTo } from './lock.js'
import { linesOf, placeOf, readCopy, type SafeCopy } from './place.js'

/** What a check of a copy came to. */
export interface CopyCheck {
  folder: string
  /** Contents that were read. */
  checked: number
  problems: { name: string; why: string }[]
}

/**
 * Reads everything that copies consist of, and compares it with its sums. Contents that several of them share are read
 * once. @throws the signal's reason when stopped
 */
export class CopyChecker {
  readonly #seen = new Map<string, string | null>()

  /** @param setAside what is not what it was loses its name, so that the next copy of its state takes it anew */
  constructor(
    readonly signal?: AbortSignal,
    readonly setAside = false,
  ) {}

  async check(folder: string): Promise<CopyCheck> {
    const problems: CopyCheck['problems'] = []
    const tell = (name: string, why: string) => problems.push({ name, why })
    await this.#checkTags(folder, tell)
    const copy = await readCopy(folder).catch((thrown) => void tell('copy.json', messageOf(thrown)))
    const checked = copy ? await this.#checkContents(copy, tell) : 0
    return { folder, checked, problems }
  }

  async #checkTags(folder: string, tell: (name: string, why: string) => void): Promise<void> {
    const text = await readFile(join(folder, TAGS_FILE), 'utf8').catch(() => '')
    const tags = [...text.matchAll(/^([0-9a-f]{64}) {2}([a-z0-9.-]+)$/gm)]
    if (tags.length === 0) tell(TAGS_FILE, 'it is missing or damaged')
    for (const [, sum, name = ''] of tags) {
      const bytes = await readFile(join(folder, name)).catch(() => undefined)
      if (!bytes) tell(name, 'it is missing')
      else if (digest('sha256', bytes) !== sum) tell(name, 'it is not what it was')
    }
  }

  async #checkContents(copy: SafeCopy, tell: (name: string, why: string) => void): Promise<number> {
    const sums = new Set<string>()
    try {
      for await (const line of linesOf(copy.folder)) {
        this.signal?.throwIfAborted()
        if (!line) tell('files.jsonl', 'a line is damaged')
        if (!line?.sha256 || sums.has(line.sha256)) continue
        sums.add(line.sha256)
        const why = await this.#whatIsWrong(placeOf(copy.folder), line.sha256)
        if (why) tell(`${line.domain}/${line.path}`, why)
      }
    } catch (thrown) {
      if (this.signal?.aborted) throw thrown
      tell('files.jsonl', messageOf(thrown))
    }
    return sums.size
  }

  /** Null: nothing. */
  async #whatIsWrong(place: string, sum: string): Promise<string | null> {
    const known = this.#seen.get(sum)
    if (known !== undefined) return known
    const why = await readSum(contentPath(place, sum)).then(
      async (found) => (found === sum ? null : await this.#tellWrong(place, sum)),
      (thrown: NodeJS.ErrnoException) =>
        thrown.code === 'ENOENT' ? 'its content is missing' : `its content cannot be read: ${messageOf(thrown)}`,
    )
    this.#seen.set(sum, why)
    return why
  }

  async #tellWrong(place: string, sum: string): Promise<string> {
    const path = contentPath(place, sum)
    const aside = join(place, 'content', `.damaged-${sum}-${randomUUID()}`)
    // Somebody who writes there may count on it: then it stays, and the next check sets it aside.
    if (this.setAside) await writingTo(place, () => rename(path, aside)).catch(() => {})
    return 'its content is not what it was'
  }
}

async function readSum(path: string): Promise<string> {
  const source = await FileSource.open(path)
  try {
    return await sha256Of(source)
  } finally {
    await source.close()
  }
}
