import { join } from 'node:path'
import { type AttachmentRef, attachmentsOf } from '../categories/attachments.js'
import type { CategoryId } from '../categories/registry.js'
import { CATEGORIES } from '../categories/table.js'
import type { Sighting } from '../categories/types.js'
import type { Standing } from '../findings/standing.js'
import { digest } from '../io/hash.js'
import { BagWriter } from './bag.js'
import { partsIn } from './bag-parts.js'
import type { FormatWriter, HandoverItem, PackageContext } from './format.js'
import { FORMATS, formatsOffered, isFormat } from './formats.js'
import { IndexWriter } from './index-lines.js'
import { Places } from './names.js'
import { itemsInPackage, OVERVIEWS } from './packaged.js'
import { partPage } from './part-page.js'
import { ProvenanceWriter } from './provenance-page.js'
import { receiptPdf } from './receipt-pdf.js'
import { type Counts, type PackageSubject, type Report, reportOf, zoneOf } from './report.js'
import { reportPage } from './report-page.js'
import { reportPdf } from './report-pdf.js'
import { fingerprintOf, type Signer } from './signing.js'
import { type MakePreview, Previews } from './site/previews.js'
import type { SiteProgram } from './site/program.js'
import { type PageOfParts, writeSite } from './site/site.js'
import { workbookOf } from './workbook.js'

/** What a finished package holds. */
export interface PackageSummary {
  path: string
  /** Items that are new, and whole in the package; those that lay there before are not counted. */
  items: number
  /** New items that are listed, and whose content could not be written. */
  missed: number
  files: number
  bytes: number
  /** Of all items in the package, those of earlier handovers among them. */
  counts: Counts
  problems: string[]
}

export interface PackageOptions {
  to: string
  subject: PackageSubject
  /** Signs the package; absent: it is not signed. */
  signer?: Signer
  /** Names this handover through all its attempts, so that a later one goes on where an earlier one broke off. */
  id?: string
  /** Pages at the package's top by which the owner looks at it; absent: none are made. */
  site?: { program: SiteProgram; preview?: MakePreview }
  /** By category, where its own formats are not wanted; ids that it cannot be written in are passed over. */
  formats?: Partial<Record<CategoryId, readonly string[]>>
  /** The package is split into parts of at most so many bytes, each a bag of its own. */
  partBytes?: number | undefined
  /** Default: files of equal content once. */
  duplicates?: PackageContext['duplicates']
  /** True for what may pass, so that what was written so far is left to a later attempt. */
  mayPass?: (thrown: unknown) => boolean
  /** Items so far, and the bytes of their contents and texts; called often. */
  progress?: (items: number, bytes: number) => void
  signal?: AbortSignal
}

// The report lists single problems only as far as anyone reads them.
const MAX_PROBLEMS = 500

/**
 * Writes a handover package. Items come category by category, and within messages conversation by conversation.
 * Whatever goes wrong, nothing half-written stays at the destination. It is done once every file was written, flushed to
 * the disk and read back (docs/truth.md, rule 18).
 * @throws DestinationError when the folder cannot be used; the signal's reason when stopped
 */
export async function writePackage(
  items: AsyncIterable<HandoverItem>,
  options: PackageOptions,
): Promise<PackageSummary> {
  const bag = await BagWriter.create(options.to, { id: options.id, group: options.subject.jobUid ?? null })
  if (bag.complete) return finishedBefore(bag, items)
  try {
    return await new Packing(bag, options).fill(items)
  } catch (thrown) {
    if (options.id && options.mayPass?.(thrown)) await bag.suspend()
    else await bag.discard()
    throw thrown
  }
}

/** What was handed over by an attempt that was killed before it could say so. */
async function finishedBefore(bag: BagWriter, items: AsyncIterable<HandoverItem>): Promise<PackageSummary> {
  const counts: Counts = {}
  const wanted = new Set<string>()
  for await (const { sighting } of items) wanted.add(keyOf(sighting))
  let count = 0
  let missed = 0
  const [first] = await partsIn(bag.destination)
  for await (const item of itemsInPackage(first === undefined ? bag.destination : join(bag.destination, first))) {
    if (!item.missed) tally(counts, item.category, item.standing)
    if (!wanted.has(keyOf(item))) continue
    if (item.missed) missed++
    else count++
  }
  return { ...sizeOf(bag), items: count, missed, counts, problems: [] }
}

function sizeOf(bag: BagWriter): Pick<PackageSummary, 'path' | 'files' | 'bytes'> {
  const files = bag.complete ? bag.earlier : bag.files
  return { path: bag.destination, files: files.length, bytes: files.reduce((sum, file) => sum + file.bytes, 0) }
}

/** A package while it is being written. */
class Packing {
  readonly #problems: string[] = []
  readonly #counts: Counts = {}
  /** Of the item at hand: where it lies, and whether its content is missing. */
  #files: string[] = []
  #attached = new Map<string, string>()
  #missing = false
  #items = 0
  #missed = 0
  #bytes = 0
  /** Those that lay in the package before. */
  #before = 0
  readonly #context: PackageContext
  readonly #index: IndexWriter
  readonly #provenance: ProvenanceWriter
  readonly #previews: Previews

  constructor(
    readonly bag: BagWriter,
    readonly options: PackageOptions,
  ) {
    // Places in the root are named with "./" by those who take them.
    const taken = bag.earlier.map((file) => file.path.slice('data/'.length))
    this.#context = {
      bag,
      places: new Places([...taken, ...OVERVIEWS].map((path) => (path.includes('/') ? path : `./${path}`))),
      timeZone: zoneOf(options.subject),
      duplicates: options.duplicates ?? 'once',
      note: (problem) => this.#problems.length < MAX_PROBLEMS && this.#problems.push(problem),
      missed: (problem) => {
        this.#missing = true
        this.#context.note(problem)
      },
      placed: (path) => this.#files.push(`data/${path}`),
      liesAt: () => this.#files.map((path) => path.slice('data/'.length)),
      attached: (file, path) => this.#attached.set(keyOfFile(file), `data/${path}`),
    }
    this.#previews = new Previews(bag, options.site?.preview)
    this.#index = new IndexWriter(this.#context)
    this.#provenance = new ProvenanceWriter(this.#context, options.subject)
  }

  /** All that the index names. */
  get #listed(): number {
    return this.#items + this.#missed + this.#before
  }

  async fill(items: AsyncIterable<HandoverItem>): Promise<PackageSummary> {
    try {
      return await this.#fill(items)
    } finally {
      await this.#previews.end()
    }
  }

  async #fill(items: AsyncIterable<HandoverItem>): Promise<PackageSummary> {
    const given = await this.#takeOver()
    let writers: { category: CategoryId; formats: FormatWriter[] } | undefined
    for await (const item of items) {
      this.options.signal?.throwIfAborted()
      const { category } = item.sighting
      if (given.has(keyOf(item.sighting))) continue
      if (writers?.category !== category) {
        await finishAll(writers?.formats)
        writers = { category, formats: writersFor(category, this.options, this.#context) }
      }
      await this.#add(item, writers.formats)
    }
    await finishAll(writers?.formats)
    await this.#finish()
    return {
      ...sizeOf(this.bag),
      items: this.#items,
      missed: this.#missed,
      counts: this.#counts,
      problems: this.#problems,
    }
  }

  /** Lists again what earlier handovers into the same place gave, and tells by what it is known. */
  async #takeOver(): Promise<Set<string>> {
    const given = new Set<string>()
    if (!this.bag.earlier.some(({ path }) => path === 'data/index.jsonl')) return given
    for await (const item of itemsInPackage(this.bag.destination)) {
      // What could not be written before may be had now.
      if (item.missed) continue
      given.add(keyOf(item))
      this.#before++
      tally(this.#counts, item.category, item.standing)
      const [file] = item.files
      if (file !== undefined) this.#previews.mayShow(file, { sighting: item, standing: item.standing })
      await this.#index.addLine(item)
      await this.#provenance.add(item, item.standing, item.source ?? '', item.files)
    }
    return given
  }

  async #add(item: HandoverItem, formats: readonly FormatWriter[]): Promise<void> {
    const { sighting, standing, source } = item
    this.#files = []
    this.#attached = new Map()
    this.#missing = false
    for (const format of formats) await format.add(item)
    for (const place of [...this.#files, ...this.#attached.values()]) await this.#previews.of(place, item)
    const attached = attachmentsOf(sighting).map((file) => this.#attached.get(keyOfFile(file)) ?? null)
    await this.#index.add(item, { files: this.#files, attached, missed: this.#missing })
    await this.#provenance.add(sighting, standing, source ? `${source.name} · ${source.path}` : '', this.#files)
    if (this.#missing) this.#missed++
    else {
      tally(this.#counts, sighting.category, standing)
      this.#items++
    }
    this.#bytes += sighting.content?.bytes ?? Buffer.byteLength(sighting.text ?? '')
    this.options.progress?.(this.#items + this.#missed, this.#bytes)
  }

  async #finish(): Promise<void> {
    await this.#index.finish()
    await this.#provenance.finish()
    const writtenAt = new Date()
    const { subject, signer } = this.options
    const signedBy = signer && fingerprintOf(signer.publicKey)
    const pictures = await this.#previews.sheet()
    const report = reportOf(subject, this.#counts, this.#problems, this.#missed, { writtenAt, signedBy, pictures })
    await this.bag.write('report.html', reportPage(report))
    await this.bag.write('report.pdf', await reportPdf(report, this.options.site?.program.fonts))
    if (this.#listed > 0)
      await this.bag.write('index.xlsx', await workbookOf(itemsInPackage(this.bag.staging), this.#context.timeZone))
    const page = await this.#writeSite(report)
    await this.bag.finish(bagInfo(subject, writtenAt), {
      signer,
      partBytes: this.options.partBytes,
      beside: async (listed, starts = []) => [
        ...(page === null ? [] : [['index.html', page(starts)] as const]),
        ['receipt.pdf', await receiptPdf(report, listed, this.options.site?.program.fonts)],
      ],
      besideFurther: (number, count) => [
        partPage({ title: report.title, number, count, entry: page === null ? 'data/report.html' : 'index.html' }),
      ],
    })
  }

  /** Pages of all that the package holds; an addition writes them anew. @returns the one at its top; null: it has none */
  async #writeSite(report: Report): Promise<PageOfParts | null> {
    const { site } = this.options
    if (!site || this.#listed === 0) return null
    return writeSite(this.bag, { report, zone: this.#context.timeZone, program: site.program })
  }
}

/** What an item is told by among those that were handed over before; a whole copy is more than part of one. */
const keyOf = (sighting: Sighting): string =>
  digest(
    'sha256',
    `${sighting.category} ${sighting.condition === 'partial'} ${CATEGORIES[sighting.category].identity(sighting)}`,
  )

const keyOfFile = ({ domain, path }: AttachmentRef): string => `${domain}\0${path}`

function writersFor(category: CategoryId, options: PackageOptions, context: PackageContext): FormatWriter[] {
  const offered = formatsOffered(CATEGORIES[category])
  const wanted = options.formats?.[category]?.filter(isFormat) ?? CATEGORIES[category].formats.filter(isFormat)
  return offered.filter((id) => wanted.includes(id)).map((id) => new FORMATS[id].writer(context, category))
}

async function finishAll(formats: FormatWriter[] | undefined): Promise<void> {
  for (const format of formats ?? []) await format.finish()
}

function tally(counts: Counts, category: CategoryId, standing: Standing): void {
  const ofCategory = counts[category] ?? {}
  ofCategory[standing] = (ofCategory[standing] ?? 0) + 1
  counts[category] = ofCategory
}

function bagInfo(subject: PackageSubject, writtenAt: Date): Record<string, string> {
  return {
    'Bagging-Date': writtenAt.toISOString().slice(0, 10),
    'Bag-Software-Agent': 'Lumbrin 0.1.0',
    ...(subject.jobNumber ? { 'External-Identifier': subject.jobNumber } : {}),
    ...(subject.log ? { 'Log-Seal': `${subject.log.hash} after ${subject.log.entries} entries` } : {}),
  }
}
