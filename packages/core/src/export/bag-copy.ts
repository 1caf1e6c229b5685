import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { readdir, readFile, rename, rm, rmdir, stat, utimes } from 'node:fs/promises'
import { basename, dirname, join, relative, resolve } from 'node:path'
import { syncFolder } from '../io/durable.js'
import { addToBag, earlierBag } from './bag-adding.js'
import { readBag, sha256OfFile } from './bag-check.js'
import { makeFolder, openBelow, requireRealFolder } from './bag-place.js'
import { type BagFile, DestinationError, PAYLOAD, type Tag } from './bag-types.js'

const CHUNK = 1 << 20

/**
 * Copies a finished package to a second place: each file is hashed while it is copied, flushed, and read back. Where an
 * earlier copy of it lies there, only what is new is copied. The sources are not read again.
 * @throws DestinationError where the place cannot be used, or a file is not what it was; the signal's reason when stopped
 */
export async function copyPackage(
  from: string,
  to: string,
  { group, signal }: { group: string | null; signal?: AbortSignal },
): Promise<void> {
  const destination = resolve(to)
  if (destination === resolve(from)) throw new DestinationError('The second place is the first one.')
  const present = await readdir(destination).catch(() => [])
  const earlier = present.length > 0 ? await earlierBag(destination, group) : []
  const staging = join(dirname(destination), `.${basename(destination)}.copy`)
  await rm(staging, { recursive: true, force: true })
  try {
    await makeFolder(staging)
    await requireRealFolder(staging)
    const known = new Map(earlier.map(({ path, sha256 }) => [path, sha256]))
    const sums = new Map((await readBag(from))?.map(({ path, sha256 }) => [path, sha256]))
    if (earlier.some(({ path }) => !sums.has(path)))
      throw new DestinationError(
        `"${destination}" holds another package of this job: its files would belong to no manifest any more. Nothing was copied; choose another folder.`,
      )
    const copied: BagFile[] = []
    for (const path of await filesIn(from)) {
      signal?.throwIfAborted()
      if (sums.has(path) && known.get(path) === sums.get(path)) continue
      copied.push(await copyFile(from, staging, path))
    }
    for (const folder of await foldersIn(staging)) await syncFolder(folder)
    if (earlier.length > 0) await add(destination, staging, copied, earlier)
    else {
      await rmdir(destination).catch(() => {})
      await rename(staging, destination)
    }
    await syncFolder(dirname(destination))
  } finally {
    await rm(staging, { recursive: true, force: true })
  }
}

async function add(destination: string, staging: string, copied: BagFile[], earlier: BagFile[]): Promise<void> {
  const isPayload = ({ path }: BagFile) => path.startsWith(`${PAYLOAD}/`)
  const tags = await Promise.all(
    copied
      .filter((file) => !isPayload(file))
      .map(async ({ path }): Promise<Tag> => [path, await readFile(join(staging, path))]),
  )
  await addToBag(destination, staging, copied.filter(isPayload), earlier, tags)
}

/** Copies one file. @throws DestinationError where the copy cannot be read back as it was written */
async function copyFile(from: string, to: string, path: string): Promise<BagFile> {
  const hash = createHash('sha256')
  let bytes = 0
  const handle = await openBelow(to, path)
  try {
    for await (const chunk of createReadStream(join(from, path), { highWaterMark: CHUNK })) {
      hash.update(chunk)
      bytes += chunk.length
      await handle.writeFile(chunk)
    }
    await handle.datasync()
  } finally {
    await handle.close()
  }
  const { mtime } = await stat(join(from, path))
  await utimes(join(to, path), mtime, mtime)
  const sha256 = hash.digest('hex')
  if ((await sha256OfFile(join(to, path))) !== sha256)
    throw new DestinationError(`"${path}" was copied, and cannot be read back as it was: the disk may be failing.`)
  return { path, bytes, sha256 }
}

const entriesIn = (folder: string) => readdir(folder, { recursive: true, withFileTypes: true })

async function filesIn(folder: string): Promise<string[]> {
  const files = (await entriesIn(folder)).filter((entry) => entry.isFile())
  return files.map((entry) => relative(folder, join(entry.parentPath, entry.name)).replaceAll('\\', '/'))
}

async function foldersIn(folder: string): Promise<string[]> {
  const folders = (await entriesIn(folder)).filter((entry) => entry.isDirectory())
  return [...folders.map((entry) => join(entry.parentPath, entry.name)), folder]
}
