import { FormatError, type Report } from '../io/errors.js'
import type { ByteSource } from '../io/source.js'
import { fromUnix } from '../io/time.js'
import type { WarningCode } from '../io/warnings.js'
import { fileIdOf, isInnerPathText } from './manifest-values.js'
import type { SourceEntry } from './types.js'

const MAGIC = Buffer.from('mbdb\x05\x00', 'latin1')
const MAX_BYTES = 512 << 20
const MAX_ENTRIES = 5_000_000
const NULL_LENGTH = 0xffff
/** Bytes of a record behind its five texts and before its properties. */
const FIXED_BYTES = 40
const KIND_OF_MODE = { 8: 'file', 4: 'directory', 10: 'link' } as const
// Every domain's name ends so or goes on with a hyphen and the application's id.
const DOMAIN = /^[A-Za-z]+Domain(-|$)/

/**
 * Reads the file list of a legacy backup (Manifest.mbdb; layout from memory, see docs/formats.md). Records have no
 * length of their own: behind a damaged one the next is found by the name of a domain.
 * @throws FormatError when it is no such list
 */
export async function readLegacyManifest(source: ByteSource, report: Report): Promise<SourceEntry[]> {
  if (source.size > MAX_BYTES) throw new FormatError('too-large', 0, 'a file list of over 512 MiB')
  const bytes = Buffer.from(await source.read(0, source.size))
  if (!bytes.subarray(0, MAGIC.length).equals(MAGIC)) throw new FormatError('bad-magic', 0, 'not a list of files')
  const entries: SourceEntry[] = []
  const seen = new Set<string>()
  let refused = 0
  let skipped = 0
  for (let at = MAGIC.length; at < bytes.length && entries.length < MAX_ENTRIES; ) {
    const record = tryRecord(bytes, at)
    if (!record) {
      skipped++
      at = nextRecord(bytes, at + 1)
      continue
    }
    at = record.end
    if (record.entry && !seen.has(record.entry.id)) {
      seen.add(record.entry.id)
      entries.push(record.entry)
    } else refused++
  }
  const tell = (code: WarningCode, message: string) => report({ code, message, path: 'Manifest.mbdb' })
  if (skipped > 0)
    tell(
      'manifest-damaged',
      `The list of files is damaged in ${skipped === 1 ? 'one place; what follows it' : `${skipped} places; what follows them`} was found again.`,
    )
  if (refused > 0)
    tell('entries-refused', `${refused} entries of the list are doubled or lead outside the backup; they are left out.`)
  return entries
}

function tryRecord(bytes: Buffer, start: number): { entry: SourceEntry | undefined; end: number } | undefined {
  try {
    return readRecord(bytes, start)
  } catch (thrown) {
    if (thrown instanceof RangeError || thrown instanceof FormatError) return undefined
    throw thrown
  }
}

/** @throws RangeError where the bytes end before the record does, FormatError where it cannot be one */
function readRecord(bytes: Buffer, start: number): { entry: SourceEntry | undefined; end: number } {
  let at = start
  const text = (): Buffer | null => {
    const length = bytes.readUInt16BE(at)
    at += 2
    if (length === NULL_LENGTH) return null
    if (at + length > bytes.length) throw new RangeError('cut short')
    at += length
    return bytes.subarray(at - length, at)
  }
  const domain = text()?.toString('utf8') ?? ''
  if (!DOMAIN.test(domain)) throw new FormatError('bad-value', start, 'no domain')
  const path = text()?.toString('utf8') ?? ''
  const target = text()?.toString('utf8') ?? null
  text()
  const key = text()
  const fixed = at
  const kind = KIND_OF_MODE[(bytes.readUInt16BE(fixed) >>> 12) as keyof typeof KIND_OF_MODE]
  const size = bytes.readBigUInt64BE(fixed + 30)
  const properties = bytes.readUInt8(fixed + FIXED_BYTES - 1)
  at += FIXED_BYTES
  for (let i = 0; i < properties * 2; i++) text()
  if (!kind || size > BigInt(Number.MAX_SAFE_INTEGER)) throw new FormatError('bad-value', fixed, 'no file mode or size')
  if (!isInnerPathText(path)) return { entry: undefined, end: at }
  const entry: SourceEntry = {
    domain,
    path,
    kind,
    target,
    size: kind === 'file' ? Number(size) : 0,
    modifiedAt: fromUnix(bytes.readUInt32BE(fixed + 18)),
    createdAt: fromUnix(bytes.readUInt32BE(fixed + 26)),
    id: fileIdOf(domain, path),
    key: key ? Uint8Array.from(key) : null,
  }
  return { entry, end: at }
}

/** Where another record may begin: a length, and a name of just that length that ends like a domain's. */
function nextRecord(bytes: Buffer, from: number): number {
  for (let found = bytes.indexOf('Domain', from); found >= 0; found = bytes.indexOf('Domain', found + 1)) {
    let start = found
    while (start > from && isLetter(bytes[start - 1] as number)) start--
    for (const at of [start - 2, start - 1])
      if (at >= from && at + 2 <= bytes.length && looksLikeDomain(bytes, at)) return at
  }
  return bytes.length
}

const isLetter = (byte: number) => (byte >= 65 && byte <= 90) || (byte >= 97 && byte <= 122)

function looksLikeDomain(bytes: Buffer, at: number): boolean {
  const length = bytes.readUInt16BE(at)
  return length < 256 && DOMAIN.test(bytes.subarray(at + 2, at + 2 + length).toString('latin1'))
}
