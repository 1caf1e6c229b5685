import { createHash } from 'node:crypto'
import { type FileHandle, mkdir, open, readdir, rename, rm, rmdir, utimes } from 'node:fs/promises'
import { basename, dirname, join, resolve } from 'node:path'
import { messageOf } from '../io/errors.js'
import { digest } from '../io/hash.js'

/** Why a package cannot be written to a place. */
export class DestinationError extends Error {
  override readonly name = 'DestinationError'
}

/** A file of the package, as its manifest lists it. */
export interface BagFile {
  /** Relative to the package, with "/" as separator. */
  path: string
  bytes: number
  sha256: string
}

const PAYLOAD = 'data'

/**
 * Writes a bag (RFC 8493) with a SHA-256 manifest. All of it is built in a folder beside the destination, which takes
 * the destination's name when the bag is complete: whoever looks there finds a whole package or none.
 */
export class BagWriter {
  readonly files: BagFile[] = []

  private constructor(
    readonly destination: string,
    readonly staging: string,
  ) {}

  /** @throws DestinationError when the folder holds something already or cannot be written */
  static async create(folder: string): Promise<BagWriter> {
    const destination = resolve(folder)
    const present = await readdir(destination).catch((thrown: NodeJS.ErrnoException) => {
      if (thrown.code === 'ENOENT') return []
      throw new DestinationError(`"${destination}" cannot be used: ${thrown.message}. Choose another folder.`)
    })
    if (present.length > 0)
      throw new DestinationError(`"${destination}" is not empty. Nothing was written; choose a new or an empty folder.`)
    const staging = join(dirname(destination), `.${basename(destination)}.part-${process.pid}-${Date.now()}`)
    try {
      await mkdir(join(staging, PAYLOAD), { recursive: true })
    } catch (thrown) {
      throw new DestinationError(
        `"${destination}" cannot be written: ${messageOf(thrown)}. Nothing was written; choose another folder.`,
      )
    }
    return new BagWriter(destination, staging)
  }

  /** Writes one payload file; its time is set where known. */
  async write(path: string, content: string | AsyncIterable<Uint8Array>, modifiedAt?: Date | null): Promise<BagFile> {
    const file = await this.open(path)
    try {
      if (typeof content === 'string') await file.write(content)
      else for await (const chunk of content) await file.write(chunk)
    } finally {
      await file.close()
    }
    if (modifiedAt) await utimes(join(this.staging, PAYLOAD, path), modifiedAt, modifiedAt)
    return this.files.at(-1) as BagFile
  }

  /** Opens a payload file that is written piece by piece; it counts as part of the bag once it is closed. */
  async open(path: string): Promise<OpenFile> {
    const full = join(this.staging, PAYLOAD, path)
    await mkdir(dirname(full), { recursive: true })
    const handle = await open(full, 'wx')
    return new OpenFile(handle, (bytes, sha256) => this.files.push({ path: `${PAYLOAD}/${path}`, bytes, sha256 }))
  }

  /** Writes manifests and tag files and puts the bag in its place. */
  async finish(info: Record<string, string>): Promise<void> {
    const bytes = this.files.reduce((sum, file) => sum + file.bytes, 0)
    const tags: [string, string][] = [
      ['bagit.txt', 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n'],
      ['bag-info.txt', tagLines({ ...info, 'Payload-Oxum': `${bytes}.${this.files.length}` })],
      ['manifest-sha256.txt', manifestLines(this.files)],
    ]
    tags.push([
      'tagmanifest-sha256.txt',
      manifestLines(tags.map(([path, text]) => ({ path, bytes: 0, sha256: digest('sha256', text) }))),
    ])
    for (const [name, text] of tags) {
      const handle = await open(join(this.staging, name), 'wx')
      await handle.writeFile(text)
      await handle.sync()
      await handle.close()
    }
    await rmdir(this.destination).catch(() => {})
    await rename(this.staging, this.destination)
  }

  /** Removes all that was written so far. */
  async discard(): Promise<void> {
    await rm(this.staging, { recursive: true, force: true })
  }
}

/** A file of a bag while it is being written. */
class OpenFile {
  readonly #hash = createHash('sha256')
  #bytes = 0

  constructor(
    readonly handle: FileHandle,
    readonly done: (bytes: number, sha256: string) => void,
  ) {}

  async write(piece: string | Uint8Array): Promise<void> {
    const bytes = typeof piece === 'string' ? Buffer.from(piece) : piece
    this.#hash.update(bytes)
    this.#bytes += bytes.byteLength
    for (let at = 0; at < bytes.byteLength; ) at += (await this.handle.write(bytes, at)).bytesWritten
  }

  async close(): Promise<void> {
    await this.handle.close()
    this.done(this.#bytes, this.#hash.digest('hex'))
  }
}

export type { OpenFile }

// A manifest line ends at its newline, so one inside a path is written as the RFC asks.
const manifestPath = (path: string) => path.replaceAll('%', '%25').replaceAll('\n', '%0A').replaceAll('\r', '%0D')
const manifestLines = (files: readonly BagFile[]) =>
  files.map((file) => `${file.sha256}  ${manifestPath(file.path)}\n`).join('')
const tagLines = (info: Record<string, string>) =>
  Object.entries(info)
    .map(([label, value]) => `${label}: ${value.replace(/\s+/g, ' ')}\n`)
    .join('')
