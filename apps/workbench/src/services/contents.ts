import {
  checkIntegrity,
  type IntegrityReport,
  type IntegrityStep,
  integritySteps,
} from '@lumbrin/core/backup/integrity'
import type { SourceEntry } from '@lumbrin/core/backup/types'
import { contentStateOf } from '@lumbrin/core/categories/content-state'
import { fileSighting } from '@lumbrin/core/categories/files/index'
import { openStore } from '@lumbrin/core/categories/open'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import { categoryList } from '@lumbrin/core/categories/table'
import type { Json } from '@lumbrin/core/categories/types'
import { type ByteSource, readAll, readUpTo } from '@lumbrin/core/io/source'
import { mimeOf } from '@lumbrin/core/media/kinds'
import { kindOfBytes, SIGNATURE_BYTES } from '@lumbrin/core/media/signatures'
import { type PlistValue, parsePlist } from '@lumbrin/core/plist/read'
import type { Database } from '@lumbrin/core/sqlite/database'
import type { SqlValue } from '@lumbrin/core/sqlite/values'
import type { Db } from '../database/connection.js'
import { storePicked } from '../database/findings.js'
import { findSource } from '../database/sources.js'
import { addToTray } from '../database/tray.js'
import type { FileLine, FileListing, FilePeek, PartSize, SourceOverview, TablePeek } from '../domain/contents.js'
import { AppError } from '../domain/errors.js'
import type { SourceId } from '../domain/ids.js'
import { forget } from './cached.js'
import type { OpenContent } from './content.js'
import { requireOpenJob } from './jobs.js'
import { treeOf } from './trees.js'

/** Counts and sizes by domain and by category. @throws where the source cannot be opened, or is locked */
export async function sourceOverview(db: Db, sourceId: SourceId): Promise<SourceOverview> {
  const tree = await treeOf(db, sourceId)
  const domains = new Map<string, PartSize>()
  const categories = new Map<CategoryId, PartSize>()
  for (const entry of tree.entries()) {
    if (entry.kind !== 'file') continue
    count(domains, entry.domain, entry)
    for (const category of categoryList) if (category.holds(entry)) count(categories, category.id, entry)
  }
  return {
    domains: [...domains].map(([domain, size]) => ({ domain, ...size })).sort((a, b) => b.bytes - a.bytes),
    categories: [...categories].map(([category, size]) => ({ category, ...size })),
  }
}

function count<K>(parts: Map<K, PartSize>, key: K, entry: SourceEntry): void {
  const part = parts.get(key) ?? { files: 0, bytes: 0 }
  parts.set(key, { files: part.files + 1, bytes: part.bytes + (entry.size ?? 0) })
}

const MOST_LINES = 20_000

/** What lies in a folder, or (with words) what anywhere in the source has them in its path. */
export async function listFiles(
  db: Db,
  sourceId: SourceId,
  place: { domain: string; folder: string },
  words: string,
): Promise<FileListing> {
  const tree = await treeOf(db, sourceId)
  const lines = words === '' ? folderLines(tree.entries(), place) : foundLines(tree.entries(), words.toLowerCase())
  return { lines: lines.slice(0, MOST_LINES), more: lines.length > MOST_LINES }
}

function folderLines(
  entries: Iterable<SourceEntry>,
  { domain, folder }: { domain: string; folder: string },
): FileLine[] {
  const lines = new Map<string, FileLine>()
  for (const entry of entries) {
    if (domain !== '' && entry.domain !== domain) continue
    // Without a domain its names are the folders.
    const whole = domain === '' ? `${entry.domain}/${entry.path}` : entry.path
    if (folder !== '' && !whole.startsWith(`${folder}/`)) continue
    const rest = folder === '' ? whole : whole.slice(folder.length + 1)
    const name = rest.split('/', 1)[0] as string
    if (name === '') continue
    if (name === rest && entry.kind !== 'directory') lines.set(name, fileLine(entry))
    else
      addToFolder(
        lines,
        name,
        domain === '' ? { domain: name, path: '' } : { domain, path: `${folder ? `${folder}/` : ''}${name}` },
        entry,
      )
  }
  return [...lines.values()].sort(
    (a, b) => Number(a.kind !== 'folder') - Number(b.kind !== 'folder') || a.name.localeCompare(b.name),
  )
}

function addToFolder(
  lines: Map<string, FileLine>,
  name: string,
  place: { domain: string; path: string },
  entry: SourceEntry,
) {
  const line = lines.get(name) ?? { ...place, name, kind: 'folder', bytes: 0, files: 0, modifiedAt: null }
  if (entry.kind === 'file') {
    line.files++
    line.bytes += entry.size ?? 0
  }
  lines.set(name, line)
}

function foundLines(entries: Iterable<SourceEntry>, words: string): FileLine[] {
  const lines: FileLine[] = []
  for (const entry of entries) {
    if (lines.length > MOST_LINES) break
    if (entry.kind !== 'directory' && `${entry.domain}/${entry.path}`.toLowerCase().includes(words))
      lines.push(fileLine(entry))
  }
  return lines
}

const fileLine = (entry: SourceEntry): FileLine => ({
  domain: entry.domain,
  path: entry.path,
  name: entry.path.split('/').at(-1) ?? entry.path,
  kind: entry.kind === 'link' ? 'link' : 'file',
  bytes: entry.size ?? 0,
  files: 0,
  modifiedAt: entry.modifiedAt?.toISOString() ?? null,
})

const TEXT_BYTES = 64 << 10
const HEX_BYTES = 16 << 10
const PLIST_BYTES = 4 << 20
const MOST_ROWS = 100

/** Looks into a file by what its bytes are. `table`: of a database, the one to show. */
export async function peekFile(
  db: Db,
  sourceId: SourceId,
  place: { domain: string; path: string },
  table: string | undefined,
): Promise<FilePeek> {
  const { source } = await openFile(db, sourceId, place)
  try {
    const kind = kindOfBytes(await readUpTo(source, 0, SIGNATURE_BYTES))
    if (kind?.ending === 'db') return await peekDatabase(db, sourceId, place, table)
    if (kind?.mime.startsWith('image/')) return { kind: 'picture' }
    return (await peekPlist(source, kind?.ending)) ?? (await peekText(source))
  } finally {
    await source.close()
  }
}

async function peekPlist(source: ByteSource, ending: string | undefined): Promise<FilePeek | undefined> {
  if ((ending !== 'plist' && ending !== 'xml') || source.size > PLIST_BYTES) return undefined
  try {
    return { kind: 'plist', value: shapeOf(parsePlist(await readAll(source, PLIST_BYTES)), 0) }
  } catch {
    // Damaged, or XML of another kind: it is shown as what it is, bytes or text.
    return undefined
  }
}

const DEEPEST = 24

function shapeOf(value: PlistValue, depth: number): Json {
  if (depth > DEEPEST) return '…'
  if (value instanceof Date) return value.toISOString()
  if (value instanceof Uint8Array) return `${value.length} bytes: ${Buffer.from(value.subarray(0, 32)).toString('hex')}`
  if (typeof value === 'bigint') return String(value)
  if (Array.isArray(value)) return value.map((one) => shapeOf(one, depth + 1))
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, shapeOf(one, depth + 1)]))
}

async function peekText(source: ByteSource): Promise<FilePeek> {
  const bytes = Buffer.from(await readUpTo(source, 0, TEXT_BYTES))
  const text = bytes.toString('utf8')
  // A character cut at the end is no sign of anything else than text.
  const isText = bytes.length > 0 && !text.slice(0, -1).includes('\uFFFD') && !bytes.includes(0)
  if (isText) return { kind: 'text', text, cut: source.size > TEXT_BYTES }
  return { kind: 'bytes', base64: bytes.subarray(0, HEX_BYTES).toString('base64'), size: source.size }
}

async function peekDatabase(
  db: Db,
  sourceId: SourceId,
  place: { domain: string; path: string },
  asked: string | undefined,
): Promise<FilePeek> {
  const store = await openStore(await treeOf(db, sourceId), [place], () => {})
  if (!store) throw new AppError('not-found', 'This database cannot be read.')
  try {
    const tables = [...store.database.tables.keys()].sort()
    const name = asked && store.database.tables.has(asked) ? asked : tables[0]
    return { kind: 'database', tables, table: name === undefined ? null : tablePeek(store.database, name) }
  } finally {
    await store.close()
  }
}

function tablePeek(database: Database, name: string): TablePeek {
  const columns = database.tables.get(name)?.columns.map((column) => column.name) ?? []
  const rows = rowsOf(database, name, columns)
  return { name, columns, rows: rows.slice(0, MOST_ROWS), more: rows.length > MOST_ROWS }
}

function rowsOf(database: Database, name: string, columns: string[]): string[][] {
  const rows: string[][] = []
  for (const row of database.rows(name)) {
    rows.push(columns.map((column) => cellText(row.values[column])))
    if (rows.length > MOST_ROWS) break
  }
  return rows
}

const LONGEST_CELL = 300

function cellText(value: SqlValue | undefined): string {
  if (value instanceof Uint8Array) return `${value.length} bytes`
  const text = value === null || value === undefined ? '' : String(value)
  return text.length > LONGEST_CELL ? `${text.slice(0, LONGEST_CELL)}…` : text
}

/** A file of a source as content. @throws AppError where the source does not hold it, or no key opens it */
export async function openFile(
  db: Db,
  sourceId: SourceId,
  { domain, path }: { domain: string; path: string },
): Promise<OpenContent> {
  const tree = await treeOf(db, sourceId)
  const entry = tree.find(domain, path)
  const source = entry?.kind === 'file' ? await tree.open(entry) : undefined
  if (!source)
    throw new AppError('not-found', 'The source lists this file, but does not hold its content or no key opens it.')
  const name = path.split('/').at(-1) ?? path
  const kind = kindOfBytes(await readUpTo(source, 0, SIGNATURE_BYTES))
  return { source, name, mime: kind?.mime ?? mimeOf(name) }
}

/** Puts a file of a source into the job's tray, as a finding of its own. */
export async function pickFile(
  db: Db,
  sourceId: SourceId,
  { domain, path }: { domain: string; path: string },
): Promise<void> {
  const source = await findSource(db, sourceId)
  if (source) await requireOpenJob(db, source.jobId)
  const tree = await treeOf(db, sourceId)
  const entry = tree.find(domain, path)
  if (!source || entry?.kind !== 'file') throw new AppError('not-found', 'There is no such file in this source.')
  const sighting = fileSighting(tree, entry)
  const content = await contentStateOf(tree, sighting)
  const finding = await storePicked(db, { sighting, content }, source.jobId, sourceId)
  await addToTray(db, source.jobId, [finding])
  forget(source.jobId)
}

/** Checks a source entry by entry. */
export async function sourceIntegrity(db: Db, sourceId: SourceId): Promise<IntegrityReport> {
  return checkIntegrity(await treeOf(db, sourceId))
}

/** The same, telling how far it is; it ends without a report where it is stopped. */
export async function* integrityOf(db: Db, sourceId: SourceId, signal: AbortSignal): AsyncGenerator<IntegrityStep> {
  yield* integritySteps(await treeOf(db, sourceId), signal)
}
