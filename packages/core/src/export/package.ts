import { createReadStream } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { CATEGORIES } from '../categories/table.js'
import type { CategoryId, Sighting } from '../categories/types.js'
import { digest } from '../io/hash.js'
import { BagWriter, DestinationError } from './bag.js'
import { BookmarkFileWriter } from './bookmark-file.js'
import { ConversationWriter } from './conversation.js'
import { CredentialsWriter } from './credentials.js'
import { CsvWriter } from './csv.js'
import type { FormatWriter, HandoverItem, PackageContext } from './format.js'
import { GeojsonWriter } from './geojson.js'
import { IcalendarWriter } from './icalendar.js'
import { IndexWriter } from './index-lines.js'
import { Places } from './names.js'
import { NotePagesWriter } from './note-pages.js'
import { OriginalsWriter } from './originals.js'
import { type Counts, type PackageSubject, reportPage } from './report.js'
import { TablePageWriter } from './table-page.js'
import { VcardWriter } from './vcard.js'

/** The formats by the ids that categories name. */
const FORMATS: Record<string, new (context: PackageContext, folder: string) => FormatWriter> = {
  html: ConversationWriter,
  csv: CsvWriter,
  original: OriginalsWriter,
  credentials: CredentialsWriter,
  vcard: VcardWriter,
  icalendar: IcalendarWriter,
  geojson: GeojsonWriter,
  'bookmark-file': BookmarkFileWriter,
  'html-table': TablePageWriter,
  'note-pages': NotePagesWriter,
}

/** What a finished package holds. */
export interface PackageSummary {
  path: string
  /** Items that are new; those that lay there before are not counted. */
  items: number
  files: number
  bytes: number
  counts: Counts
  problems: string[]
}

export interface PackageOptions {
  to: string
  subject: PackageSubject
  /** Items so far; called often. */
  progress?: (items: number) => void
  signal?: AbortSignal
}

// The report lists single problems only as far as anyone reads them.
const MAX_PROBLEMS = 500

/**
 * Writes a handover package. Items come category by category, and within messages conversation by conversation.
 * Whatever goes wrong, nothing half-written stays at the destination.
 * @throws DestinationError when the folder cannot be used; the signal's reason when stopped
 */
export async function writePackage(
  items: AsyncIterable<HandoverItem>,
  options: PackageOptions,
): Promise<PackageSummary> {
  const bag = await BagWriter.create(options.to)
  try {
    return await fill(bag, items, options)
  } catch (thrown) {
    await bag.discard()
    throw thrown
  }
}

async function fill(
  bag: BagWriter,
  items: AsyncIterable<HandoverItem>,
  options: PackageOptions,
): Promise<PackageSummary> {
  const problems: string[] = []
  const given = await givenBefore(bag)
  // Places in the root are named with "./" by those who take them.
  const taken = bag.earlier.map((file) => file.path.slice('data/'.length))
  const context: PackageContext = {
    bag,
    places: new Places(taken.map((path) => (path.includes('/') ? path : `./${path}`))),
    note: (problem) => problems.length < MAX_PROBLEMS && problems.push(problem),
  }
  const counts: Counts = {}
  const index = new IndexWriter(context)
  let writers: { category: CategoryId; formats: FormatWriter[] } | undefined
  let count = 0
  for await (const item of items) {
    options.signal?.throwIfAborted()
    const { category } = item.sighting
    if (given.has(keyOf(item.sighting))) continue
    if (writers?.category !== category) {
      await finishAll(writers?.formats)
      writers = { category, formats: CATEGORIES[category].formats.map((id) => newWriter(id, context, category)) }
    }
    for (const format of writers.formats) await format.add(item)
    await index.add(item)
    tally(counts, item)
    count++
    options.progress?.(count)
  }
  await finishAll(writers?.formats)
  await index.finish()
  const writtenAt = new Date()
  const report = context.places.take('.', 'report.html').slice(2)
  await bag.write(report, reportPage(options.subject, counts, problems, writtenAt))
  await bag.finish(bagInfo(options.subject, writtenAt))
  return {
    path: bag.destination,
    items: count,
    files: bag.files.length,
    bytes: bag.files.reduce((sum, file) => sum + file.bytes, 0),
    counts,
    problems,
  }
}

/** What an item is told by among those that were handed over before; a whole copy is more than part of one. */
const keyOf = (sighting: Sighting): string =>
  digest(
    'sha256',
    `${sighting.category} ${sighting.condition === 'partial'} ${CATEGORIES[sighting.category].identity(sighting)}`,
  )

/** The items that earlier handovers into the same place gave already, by their indices. */
async function givenBefore(bag: BagWriter): Promise<Set<string>> {
  const given = new Set<string>()
  for (const { path } of bag.earlier) {
    if (!/^data\/index( \(\d+\))?\.jsonl$/.test(path)) continue
    const lines = createInterface({ input: createReadStream(join(bag.destination, path)), crlfDelay: Infinity })
    for await (const line of lines) {
      if (line !== '') given.add(keyOfLine(line, path))
    }
  }
  return given
}

/** @throws DestinationError where the index was changed since: what lies there cannot be told then */
function keyOfLine(line: string, path: string): string {
  try {
    return keyOf(JSON.parse(line) as Sighting)
  } catch (thrown) {
    throw new DestinationError(
      `"${path}" of the earlier handover was changed, so that what is new cannot be told. Nothing was written; choose another folder.`,
      { cause: thrown },
    )
  }
}

function newWriter(id: string, context: PackageContext, folder: string): FormatWriter {
  const Writer = FORMATS[id]
  if (!Writer) throw new Error(`no writer for the format "${id}"`)
  return new Writer(context, folder)
}

async function finishAll(formats: FormatWriter[] | undefined): Promise<void> {
  for (const format of formats ?? []) await format.finish()
}

function tally(counts: Counts, { sighting, standing }: HandoverItem): void {
  const ofCategory = counts[sighting.category] ?? {}
  ofCategory[standing] = (ofCategory[standing] ?? 0) + 1
  counts[sighting.category] = ofCategory
}

function bagInfo(subject: PackageSubject, writtenAt: Date): Record<string, string> {
  return {
    'Bagging-Date': writtenAt.toISOString().slice(0, 10),
    'Bag-Software-Agent': 'Lumbrin 0.1.0',
    ...(subject.jobNumber ? { 'External-Identifier': subject.jobNumber } : {}),
  }
}
