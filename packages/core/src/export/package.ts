import { createReadStream } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { CATEGORIES } from '../categories/table.js'
import type { CategoryId, Sighting } from '../categories/types.js'
import { digest } from '../io/hash.js'
import { BagWriter } from './bag.js'
import { DestinationError } from './bag-types.js'
import type { FormatWriter, HandoverItem, PackageContext } from './format.js'
import { FORMATS, formatsOffered, isFormat } from './formats.js'
import { IndexWriter } from './index-lines.js'
import { Places } from './names.js'
import { ProvenanceWriter } from './provenance-page.js'
import { type Counts, type PackageSubject, reportOf, reportPage } from './report.js'
import { reportPdf } from './report-pdf.js'

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
  /** Names this handover through all its attempts, so that a later one goes on where an earlier one broke off. */
  id?: string
  /** By category, where its own formats are not wanted; ids that it cannot be written in are passed over. */
  formats?: Partial<Record<CategoryId, readonly string[]>>
  /** Default: files of equal content once. */
  duplicates?: PackageContext['duplicates']
  /** True for what may pass, so that what was written so far is left to a later attempt. */
  mayPass?: (thrown: unknown) => boolean
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
  const bag = await BagWriter.create(options.to, options.id)
  if (bag.complete) return summaryOf(bag, await countsOf(items), [])
  try {
    return await fill(bag, items, options)
  } catch (thrown) {
    if (options.id && options.mayPass?.(thrown)) await bag.suspend()
    else await bag.discard()
    throw thrown
  }
}

/** What was handed over by an attempt that was killed before it could say so. */
async function countsOf(items: AsyncIterable<HandoverItem>): Promise<Counts> {
  const counts: Counts = {}
  for await (const item of items) tally(counts, item)
  return counts
}

function summaryOf(bag: BagWriter, counts: Counts, problems: string[]): PackageSummary {
  const files = bag.complete ? bag.earlier : bag.files
  const bytes = files.reduce((sum, file) => sum + file.bytes, 0)
  const items = Object.values(counts).flatMap((one) => Object.values(one))
  return {
    path: bag.destination,
    items: items.reduce((sum, count) => sum + count, 0),
    files: files.length,
    bytes,
    counts,
    problems,
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
  let files: string[] = []
  const context: PackageContext = {
    bag,
    places: new Places(taken.map((path) => (path.includes('/') ? path : `./${path}`))),
    duplicates: options.duplicates ?? 'once',
    note: (problem) => problems.length < MAX_PROBLEMS && problems.push(problem),
    placed: (path) => files.push(`data/${path}`),
  }
  const counts: Counts = {}
  const index = new IndexWriter(context)
  const provenance = new ProvenanceWriter(context, options.subject)
  let writers: { category: CategoryId; formats: FormatWriter[] } | undefined
  let count = 0
  for await (const item of items) {
    options.signal?.throwIfAborted()
    const { category } = item.sighting
    if (given.has(keyOf(item.sighting))) continue
    if (writers?.category !== category) {
      await finishAll(writers?.formats)
      writers = { category, formats: writersFor(category, options, context) }
    }
    files = []
    for (const format of writers.formats) await format.add(item)
    await index.add(item, files)
    await provenance.add(item, files)
    tally(counts, item)
    count++
    options.progress?.(count)
  }
  await finishAll(writers?.formats)
  await index.finish()
  await provenance.finish()
  await writeReports(context, options.subject, counts, problems)
  return summaryOf(bag, counts, problems)
}

async function writeReports(
  { bag, places }: PackageContext,
  subject: PackageSubject,
  counts: Counts,
  problems: readonly string[],
): Promise<void> {
  const writtenAt = new Date()
  const report = reportOf(subject, counts, problems, writtenAt)
  await bag.write(places.take('.', 'report.html').slice(2), reportPage(report))
  await bag.write(places.take('.', 'report.pdf').slice(2), await reportPdf(report))
  await bag.finish(bagInfo(subject, writtenAt))
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

function writersFor(category: CategoryId, options: PackageOptions, context: PackageContext): FormatWriter[] {
  const offered = formatsOffered(CATEGORIES[category])
  const wanted = options.formats?.[category]?.filter(isFormat) ?? CATEGORIES[category].formats.filter(isFormat)
  return offered.filter((id) => wanted.includes(id)).map((id) => new FORMATS[id].writer(context, category))
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
