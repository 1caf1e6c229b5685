import type { Sighting } from '../categories/types.js'
import { itemTime } from '../findings/item-time.js'
import type { Standing } from '../findings/standing.js'
import type { PackageContext } from './format.js'
import { escapeHtml, page } from './html.js'
import type { OpenFile } from './open-file.js'
import type { PackageSubject } from './report.js'

/** The page for the shop: of every item where it was found and how sure it is, with the sources that were read. */
export class ProvenanceWriter {
  #file: OpenFile | undefined
  #foot = ''

  constructor(
    readonly context: PackageContext,
    readonly subject: PackageSubject,
  ) {}

  /** `files`: where the item lies in the package. */
  async add(sighting: Sighting, standing: Standing, source: string, files: readonly string[]): Promise<void> {
    this.#file ??= await this.#begin()
    const { origin, confidence, missing } = sighting
    const place = [origin.table, origin.rowid === null ? null : `row ${origin.rowid}`, origin.place]
    if (origin.page !== null) place.push(`page ${origin.page}`)
    if (origin.offset !== null) place.push(`byte ${origin.offset}`)
    const cells = [
      sighting.category,
      itemTime(sighting, this.context.timeZone) ?? '',
      sighting.title,
      standing,
      source,
      `${origin.domain}/${origin.path}`,
      place.filter((part) => part !== null).join(', '),
      [
        confidence.toFixed(2),
        ...(origin.reasons ?? []),
        ...(missing.length > 0 ? [`lost: ${missing.join(', ')}`] : []),
      ].join('; '),
      files.join(', '),
    ]
    await this.#file.write(`<tr>${cells.map((cell) => `<td>${escapeHtml(cell)}</td>`).join('')}</tr>\n`)
  }

  async finish(): Promise<void> {
    await this.#file?.write(this.#foot)
    await this.#file?.close()
  }

  async #begin(): Promise<OpenFile> {
    const { sources = [], jobNumber } = this.subject
    const read = sources.map(
      ({ name, path, takenAt, checksum }) =>
        `<tr>${[name, takenAt ?? 'no date', path, checksum ?? ''].map((cell) => `<td>${escapeHtml(cell)}</td>`).join('')}</tr>`,
    )
    const heads = [
      'Kind',
      `When (${this.context.timeZone})`,
      'Title',
      'Standing',
      'Source',
      'File',
      'Place',
      'Confidence',
      'In the package',
    ]
    const [head = '', foot = ''] = page(
      'Provenance',
      `<style>body{max-width:none}td{font-size:.85em;vertical-align:top;overflow-wrap:anywhere}</style>
<h1>Provenance${jobNumber ? ` of job ${escapeHtml(jobNumber)}` : ''}</h1>
<p class="soft">Where each item of the package was found. Offsets are bytes from the start of the file named.</p>
${read.length > 0 ? `<h2>Sources</h2><table><tr><th>Name</th><th>State of</th><th>Path</th><th>Checksum</th></tr>${read.join('')}</table>` : ''}
<h2>Items</h2><table><tr>${heads.map((one) => `<th>${one}</th>`).join('')}</tr>
\0</table>`,
    ).split('\0')
    this.#foot = foot
    const file = await this.context.bag.open('provenance.html')
    await file.write(head)
    return file
  }
}
