import { createHash, randomUUID } from 'node:crypto'
import { type FileHandle, open, rename, rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { syncFolder } from '../io/durable.js'
import { type ByteSource, chunksOf } from '../io/source.js'
import { contentPath } from './layout.js'
import { makeFolder } from './place.js'

/** The contents of a place, each named after its SHA-256. One gets that name once it is flushed to the disk. */
export class ContentStore {
  newContents = 0
  newBytes = 0
  readonly #known = new Set<string>()

  constructor(
    readonly place: string,
    readonly signal?: AbortSignal,
  ) {}

  async has(sum: string): Promise<boolean> {
    if (this.#known.has(sum)) return true
    const found = await stat(contentPath(this.place, sum)).catch(() => undefined)
    if (found?.isFile()) this.#known.add(sum)
    return found?.isFile() ?? false
  }

  /**
   * Keeps a content under its sum.
   * @param wanted keeps it only if this is its sum
   * @returns its sum
   */
  async keep(source: ByteSource, wanted?: string): Promise<string> {
    const part = join(this.place, 'content', `.${randomUUID()}`)
    await makeFolder(dirname(part))
    const handle = await open(part, 'wx', 0o600)
    try {
      const { sum, bytes } = await copyInto(handle, source, this.signal)
      if ((wanted && sum !== wanted) || (await this.has(sum))) return sum
      await handle.datasync()
      const path = contentPath(this.place, sum)
      await makeFolder(dirname(path))
      await rename(part, path)
      await syncFolder(dirname(path))
      // Another file of the same content may have come first meanwhile.
      if (!this.#known.has(sum)) {
        this.newContents++
        this.newBytes += bytes
      }
      this.#known.add(sum)
      return sum
    } finally {
      await handle.close()
      await rm(part, { force: true })
    }
  }
}

async function copyInto(handle: FileHandle, source: ByteSource, signal: AbortSignal | undefined) {
  const hash = createHash('sha256')
  let bytes = 0
  for await (const chunk of chunksOf(source)) {
    signal?.throwIfAborted()
    hash.update(chunk)
    bytes += chunk.length
    await handle.writeFile(chunk)
  }
  return { sum: hash.digest('hex'), bytes }
}
