import { type FileHandle, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { sha256OfFile } from './bag-check.js'
import type { BagFile } from './bag-types.js'

// Flushing waits for the disk, and hashing for another core.
const MOST_AT_ONCE = 4

/**
 * Flushes the files of a bag to the disk and reads each back against its checksum, a few at a time, while the next ones
 * are written.
 */
export class ReadBack {
  readonly #onTheWay = new Set<Promise<void>>()
  readonly #returned = new Set<BagFile>()
  #failure: unknown

  /** `folder`: in which the files of the bag lie. */
  constructor(readonly folder: string) {}

  /** Takes over the open handle of a file that was written; waits only where many are on their way. */
  async begin(file: BagFile, handle: FileHandle): Promise<void> {
    while (this.#onTheWay.size >= MOST_AT_ONCE) await Promise.race(this.#onTheWay)
    const way = this.#go(file, handle).finally(() => this.#onTheWay.delete(way))
    this.#onTheWay.add(way)
  }

  /** Waits until nothing is on its way. */
  async settle(): Promise<void> {
    await Promise.all(this.#onTheWay)
  }

  /**
   * The first of these files that the disk does not give back as it was written; undefined: it gives back all of them.
   * @throws the error of the file system where a file could not be flushed
   */
  async firstAltered(files: readonly BagFile[]): Promise<BagFile | undefined> {
    await this.settle()
    if (this.#failure !== undefined) throw this.#failure
    for (const file of files) {
      if (!this.#returned.has(file)) await this.#compare(file)
      // It may have been taken away since.
      const size = (await stat(join(this.folder, file.path)).catch(() => undefined))?.size
      if (!this.#returned.has(file) || size !== file.bytes) return file
    }
    return undefined
  }

  async #go(file: BagFile, handle: FileHandle): Promise<void> {
    try {
      await handle.datasync().finally(() => handle.close())
    } catch (thrown) {
      this.#failure ??= thrown
      return
    }
    await this.#compare(file)
  }

  async #compare(file: BagFile): Promise<void> {
    // A file that cannot be read does not count as returned; one that was left out as a duplicate need not be there.
    const kept = await sha256OfFile(join(this.folder, file.path)).catch(() => undefined)
    if (kept === file.sha256) this.#returned.add(file)
  }
}
