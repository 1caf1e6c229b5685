import { join } from 'node:path'
import { FormatError } from '../io/errors.js'
import { asUnreadable, FileSource, withoutHole } from '../io/file.js'
import { digest, sha256Of } from '../io/hash.js'
import type { SourceTree } from './types.js'

const LISTS = ['Manifest.db', 'Manifest.mbdb', 'Manifest.plist', 'Info.plist', 'Status.plist']
const DATABASE = /\.(db|sqlite|sqlitedb|storedata)(-wal|-journal)?$/

/** SHA-256 over the lists of a source and over every database in it, as they lie on disk: to show that nothing changed. */
export interface Fingerprint {
  sha256: string
  files: number
}

/**
 * Computed before and after a read. Media files are left out: they are opened read-only like all others, and hashing
 * them would take longer than the read.
 */
export async function fingerprintOf(tree: SourceTree): Promise<Fingerprint> {
  const lines: string[] = []
  for (const name of LISTS) {
    const hash = await hashAt(join(tree.info.path, name))
    if (hash) lines.push(`${hash}  ${name}`)
  }
  for (const entry of tree.entries()) {
    // Of a raw image there is nothing but its own bytes.
    const hashed = tree.info.kind === 'image' || DATABASE.test(entry.path)
    if (entry.kind !== 'file' || !hashed) continue
    const path = await tree.storedPath(entry)
    const hash = path && (await hashAt(path, entry.size))
    if (hash) lines.push(`${hash}  ${entry.id}`)
  }
  return { sha256: digest('sha256', lines.join('\n')), files: lines.length }
}

async function hashAt(path: string, declared: number | null = null): Promise<string | undefined> {
  try {
    const file = await FileSource.open(path)
    try {
      return await sha256Of(withoutHole(file, declared))
    } finally {
      await file.close()
    }
  } catch (thrown) {
    // A raw image is a file itself, and holds no lists.
    if (['ENOENT', 'ENOTDIR'].includes((thrown as NodeJS.ErrnoException).code ?? '')) return undefined
    // Nothing can be proven of what the system does not give out; the read says that it is missing.
    if (asUnreadable(thrown) instanceof FormatError) return undefined
    throw thrown
  }
}
