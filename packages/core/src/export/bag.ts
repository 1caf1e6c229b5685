import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { type FileHandle, mkdir, open, readdir, readFile, rename, rm, rmdir, stat, utimes } from 'node:fs/promises'
import { basename, dirname, join, relative, resolve } from 'node:path'
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
/** Lists the files that are being added to a bag, as long as its manifest does not. */
const ADDING = 'adding.json'

/**
 * Writes a bag (RFC 8493) with a SHA-256 manifest. All of it is built in a folder beside the destination, which takes
 * the destination's name when the bag is complete: whoever looks there finds a whole package or none. Into an earlier
 * bag, what is new is moved when all of it is there, and the manifests follow.
 */
export class BagWriter {
  readonly files: BagFile[] = []

  private constructor(
    readonly destination: string,
    readonly staging: string,
    /** Payload of the earlier bag that this one adds to. */
    readonly earlier: readonly BagFile[],
  ) {}

  /** @throws DestinationError when the folder holds something else than an earlier bag, or cannot be written */
  static async create(folder: string): Promise<BagWriter> {
    const destination = resolve(folder)
    const present = await readdir(destination).catch((thrown: NodeJS.ErrnoException) => {
      if (thrown.code === 'ENOENT') return []
      throw new DestinationError(`"${destination}" cannot be used: ${thrown.message}. Choose another folder.`)
    })
    const earlier = present.length > 0 ? await readBag(destination) : []
    if (!earlier)
      throw new DestinationError(
        `"${destination}" is not empty, and no earlier handover. Nothing was written; choose a new or an empty folder.`,
      )
    if (earlier.length > 0) await takeBack(destination, new Set(earlier.map((file) => file.path)))
    const staging = join(dirname(destination), `.${basename(destination)}.part-${process.pid}-${Date.now()}`)
    try {
      await mkdir(join(staging, PAYLOAD), { recursive: true })
    } catch (thrown) {
      throw new DestinationError(
        `"${destination}" cannot be written: ${messageOf(thrown)}. Nothing was written; choose another folder.`,
      )
    }
    return new BagWriter(destination, staging, earlier)
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
    const all = [...this.earlier, ...this.files]
    const bytes = all.reduce((sum, file) => sum + file.bytes, 0)
    const tags: [string, string][] = [
      ['bagit.txt', 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n'],
      ['bag-info.txt', tagLines({ ...info, 'Payload-Oxum': `${bytes}.${all.length}` })],
      ['manifest-sha256.txt', manifestLines(all)],
    ]
    tags.push([
      'tagmanifest-sha256.txt',
      manifestLines(tags.map(([path, text]) => ({ path, bytes: 0, sha256: digest('sha256', text) }))),
    ])
    for (const [name, text] of tags) await writeSynced(join(this.staging, name), text)
    if (this.earlier.length > 0) await this.#addTo(tags.map(([name]) => name))
    else {
      await rmdir(this.destination).catch(() => {})
      await rename(this.staging, this.destination)
    }
  }

  /**
   * Moves what is new into the earlier bag. Until its manifests are there a list of it stands beside them, by which the
   * next one takes back what a crash left half done.
   */
  async #addTo(tags: string[]): Promise<void> {
    const added = this.files.map((file) => file.path)
    await writeSynced(join(this.destination, ADDING), JSON.stringify(added))
    for (const path of added) {
      await mkdir(dirname(join(this.destination, path)), { recursive: true })
      await rename(join(this.staging, path), join(this.destination, path))
    }
    for (const name of tags) await rename(join(this.staging, name), join(this.destination, name))
    await rm(join(this.destination, ADDING))
    await this.discard()
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

async function writeSynced(path: string, text: string): Promise<void> {
  const handle = await open(path, 'w')
  await handle.writeFile(text)
  await handle.sync()
  await handle.close()
}

/** The payload that a bag's manifest lists; undefined: the folder holds no bag of this kind. */
export async function readBag(folder: string): Promise<BagFile[] | undefined> {
  const text = await readFile(join(folder, 'manifest-sha256.txt'), 'utf8').catch(() => undefined)
  const isBag = await stat(join(folder, 'bagit.txt')).catch(() => undefined)
  if (text === undefined || !isBag) return undefined
  const files: BagFile[] = []
  for (const line of text.split('\n').filter(Boolean)) {
    const [, sha256, encoded] = /^([0-9a-f]{64}) {2}(data\/.+)$/.exec(line) ?? []
    const path = encoded?.replace(/%(25|0A|0D)/g, (code) => decodeURIComponent(code))
    // A manifest that names anything outside of its payload is none of ours.
    if (!sha256 || !path || path.split('/').includes('..')) return undefined
    const size = (await stat(join(folder, path)).catch(() => undefined))?.size ?? 0
    files.push({ path, bytes: size, sha256 })
  }
  return files
}

/** Removes what a crash left half added: it is listed, and not in the manifest. */
async function takeBack(folder: string, kept: ReadonlySet<string>): Promise<void> {
  const list = await readFile(join(folder, ADDING), 'utf8').catch(() => undefined)
  if (list === undefined) return
  for (const path of listedPaths(list))
    if (path.startsWith(`${PAYLOAD}/`) && !path.split('/').includes('..') && !kept.has(path))
      await rm(join(folder, path), { force: true })
  await rm(join(folder, ADDING), { force: true })
}

/** A list that was cut short by a crash is from before anything was moved. */
function listedPaths(json: string): string[] {
  try {
    const parsed: unknown = JSON.parse(json)
    return Array.isArray(parsed) ? parsed.filter((path) => typeof path === 'string') : []
  } catch {
    return []
  }
}

/** What a check of a bag found: files that differ from the manifest, are gone, or that it does not list. */
export interface BagCheck {
  checked: number
  altered: string[]
  missing: string[]
  unlisted: string[]
}

/** Checks every file of a bag against its manifest. @throws DestinationError where there is no bag */
export async function checkBag(folder: string): Promise<BagCheck> {
  const files = await readBag(folder)
  if (!files) throw new DestinationError(`There is no handover in "${folder}" any more.`)
  const check: BagCheck = { checked: files.length, altered: [], missing: [], unlisted: [] }
  for (const { path, sha256 } of files) {
    const found = await stat(join(folder, path)).catch(() => undefined)
    if (!found?.isFile()) check.missing.push(path)
    else if ((await sha256OfFile(join(folder, path))) !== sha256) check.altered.push(path)
  }
  const listed = new Set(files.map((file) => file.path))
  for (const entry of await readdir(join(folder, PAYLOAD), { recursive: true, withFileTypes: true }).catch(() => [])) {
    const path = relative(folder, join(entry.parentPath, entry.name)).replaceAll('\\', '/')
    if (entry.isFile() && !listed.has(path)) check.unlisted.push(path)
  }
  return check
}

async function sha256OfFile(path: string): Promise<string> {
  const hash = createHash('sha256')
  for await (const chunk of createReadStream(path)) hash.update(chunk)
  return hash.digest('hex')
}

// A manifest line ends at its newline, so one inside a path is written as the RFC asks.
const manifestPath = (path: string) => path.replaceAll('%', '%25').replaceAll('\n', '%0A').replaceAll('\r', '%0D')
const manifestLines = (files: readonly BagFile[]) =>
  files.map((file) => `${file.sha256}  ${manifestPath(file.path)}\n`).join('')
const tagLines = (info: Record<string, string>) =>
  Object.entries(info)
    .map(([label, value]) => `${label}: ${value.replace(/\s+/g, ' ')}\n`)
    .join('')
