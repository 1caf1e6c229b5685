import { createHash, webcrypto } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { readdir, readFile, stat } from 'node:fs/promises'
import { join, relative } from 'node:path'
import { partsIn } from './bag-parts.js'
import { type BagFile, DestinationError, PAYLOAD, TAG_MANIFEST } from './bag-types.js'
import { isSignedBy, PUBLIC_KEY, SIGNATURE } from './signing.js'

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

/** What a check of a bag found: files that differ from the manifest, are gone, or that it does not list. */
export interface BagCheck {
  checked: number
  altered: string[]
  missing: string[]
  unlisted: string[]
  /** Whether what the manifests say is what was signed. */
  signature: 'none' | 'valid' | 'invalid'
}

/** Checks every file of a package against its manifests, part by part where it has parts. @throws DestinationError where there is none */
export async function checkPackage(folder: string): Promise<BagCheck> {
  const parts = await partsIn(folder)
  if (parts.length === 0) return checkBag(folder)
  const sum: BagCheck = { checked: 0, altered: [], missing: [], unlisted: [], signature: 'valid' }
  for (const part of parts) {
    if (!(await readBag(join(folder, part)))) {
      sum.missing.push(part)
      continue
    }
    const { checked, altered, missing, unlisted, signature } = await checkBag(join(folder, part))
    sum.checked += checked
    const within = (paths: readonly string[]) => paths.map((path) => `${part}/${path}`)
    sum.altered.push(...within(altered))
    sum.missing.push(...within(missing))
    sum.unlisted.push(...within(unlisted))
    if (sum.signature === 'valid') sum.signature = signature
  }
  return sum
}

/** Checks every file of a bag against its manifest. @throws DestinationError where there is no bag */
export async function checkBag(folder: string): Promise<BagCheck> {
  const files = await readBag(folder)
  if (!files) throw new DestinationError(`There is no handover in "${folder}" any more.`)
  const signature = await signatureOf(folder)
  const check: BagCheck = { checked: files.length, altered: [], missing: [], unlisted: [], signature }
  for (const { path, sha256 } of [...files, ...(await tagsOf(folder))]) {
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

/** The files beside the payload, as they are listed. */
async function tagsOf(folder: string): Promise<Pick<BagFile, 'path' | 'sha256'>[]> {
  const text = await readFile(join(folder, TAG_MANIFEST), 'utf8').catch(() => '')
  return text.split('\n').flatMap((line) => {
    const [, sha256, path] = /^([0-9a-f]{64}) {2}([^/]+)$/.exec(line) ?? []
    return sha256 && path ? [{ path, sha256 }] : []
  })
}

async function signatureOf(folder: string): Promise<BagCheck['signature']> {
  const read = (name: string) => readFile(join(folder, name)).catch(() => undefined)
  const [signature, key, signed] = await Promise.all([read(SIGNATURE), read(PUBLIC_KEY), read(TAG_MANIFEST)])
  if (!signature) return key ? 'invalid' : 'none'
  return key && signed && isSignedBy(key.toString(), signed, signature.toString()) ? 'valid' : 'invalid'
}

// Up to this size a file is hashed in one piece, on another thread.
const AT_ONCE = 16 << 20
const CHUNK = 1 << 20

/** SHA-256 of a file's bytes, as hexadecimal digits. */
export async function sha256OfFile(path: string): Promise<string> {
  if ((await stat(path)).size <= AT_ONCE)
    return Buffer.from(await webcrypto.subtle.digest('SHA-256', await readFile(path))).toString('hex')
  const hash = createHash('sha256')
  for await (const chunk of createReadStream(path, { highWaterMark: CHUNK })) hash.update(chunk)
  return hash.digest('hex')
}
