import { stringify } from 'csv-stringify/sync'
import type { Json } from '../categories/types.js'
import { itemIso, type TimedItem } from '../findings/item-time.js'
import type { FormatWriter, HandoverItem, PackageContext } from './format.js'
import type { OpenFile } from './open-file.js'

/**
 * A table of one category (RFC 4180): one item a line, its fields as columns. A cell that a spreadsheet would take for
 * a formula gets an apostrophe in front.
 */
export class CsvWriter implements FormatWriter {
  #file: OpenFile | undefined
  #columns: string[] = []

  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  async add(item: HandoverItem): Promise<void> {
    if (!this.#file) {
      this.#file = await this.context.bag.open(this.context.places.take(this.folder, `${this.folder}.csv`))
      this.#columns = tableColumns(item.sighting.fields)
      await this.#file.write(
        csvLine([
          ...timeHeads(this.context.timeZone),
          'standing',
          ...this.#columns,
          'file',
          'table',
          'place',
          'offset',
          'confidence',
        ]),
      )
    }
    const { sighting, standing } = item
    const { origin } = sighting
    const cells = this.#columns.map((column) => cell(sighting.fields[column] ?? null))
    const provenance = [origin.path, origin.table, origin.place, origin.offset, sighting.confidence]
    await this.#file.write(csvLine([...timeCells(sighting, this.context.timeZone), standing, ...cells, ...provenance]))
  }

  async finish(): Promise<void> {
    await this.#file?.close()
  }
}

function cell(value: Json): string | number | null {
  if (value === null || typeof value === 'string' || typeof value === 'number') return value
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (isPicture(value)) return 'yes'
  return Array.isArray(value) && value.every((one) => typeof one === 'string')
    ? value.join('; ')
    : JSON.stringify(value)
}

/** Heads of the columns that hold an item's time: by the clocks of a zone, and in UTC beside it. */
export const timeHeads = (zone: string): string[] =>
  zone === 'UTC' ? ['when (UTC)'] : [`when (${zone})`, 'when (UTC)']

/** The cells of these columns. */
export const timeCells = (item: TimedItem, zone: string): (string | null)[] =>
  zone === 'UTC' ? [itemIso(item, zone)] : [itemIso(item, zone), itemIso(item, 'UTC')]

/** Fields that are columns of a table. Days that were left in a bin once are wrong on the day after. */
export const tableColumns = (fields: { [key: string]: Json }): string[] =>
  Object.keys(fields).filter((name) => name !== 'daysLeft')

/** Bytes inside of an item say nothing in a table. */
export const isPicture = (value: Json): boolean =>
  typeof value === 'object' && value !== null && !Array.isArray(value) && 'base64' in value

/** Cells as a line of CSV (RFC 4180, section 2: a cell with any line break in it stands in quotes). */
export const csvLine = (cells: (string | number | null)[]) =>
  stringify([cells], { record_delimiter: '\r\n', escape_formulas: true, quoted_match: /[\r\n]/ })
