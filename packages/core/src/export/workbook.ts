import { definitionOf } from '../categories/registry.js'
import { itemTime } from '../findings/item-time.js'
import type { PackagedItem } from './packaged.js'
import { shownText } from './plain-text.js'

// Above that a spreadsheet is no way to look at a package, and the whole workbook would be held in memory.
const MOST_ROWS = 20_000
// A cell of the format holds no more (ECMA-376, common practice of spreadsheet programs).
const MOST_LETTERS = 32_000

const COLUMNS = [
  { head: 'Kind', width: 18 },
  { head: 'When', width: 18 },
  { head: 'When (UTC)', width: 18 },
  { head: 'Standing', width: 12 },
  { head: 'Title', width: 32 },
  { head: 'Text', width: 60 },
  { head: 'Source', width: 28 },
  { head: 'Confidence', width: 12 },
  { head: 'Note', width: 24 },
  { head: 'Files', width: 48 },
]

/**
 * The items of a package as a workbook of one sheet (ECMA-376): dates are dates, numbers numbers, and texts only texts. Its
 * last row says how many more there are than it holds. `most`: rows that it holds.
 */
export async function workbookOf(
  items: AsyncIterable<PackagedItem>,
  zone: string,
  most = MOST_ROWS,
): Promise<Uint8Array> {
  const { default: writeExcelFile } = await import('write-excel-file/node')
  const head = COLUMNS.map(({ head: name }) => ({
    value: name === 'When' ? `When (${zone})` : name,
    type: String,
    fontWeight: 'bold' as const,
  }))
  const rows: unknown[][] = [head]
  let left = 0
  for await (const item of items) {
    if (rows.length <= most) rows.push(rowOf(item, zone))
    else left++
  }
  if (left > 0) rows.push([textCell(`… and ${left} more items: index.csv has all of them.`)])
  const columns = COLUMNS.map(({ width }) => ({ width }))
  return writeExcelFile(rows as never, { columns, stickyRowsCount: 1, sheet: 'Everything' }).toBuffer()
}

function rowOf(item: PackagedItem, zone: string): unknown[] {
  const { category, standing, title, text, source, confidence, note, files } = item
  return [
    textCell(definitionOf(category).label),
    timeCell(itemTime(item, zone)),
    timeCell(itemTime(item, 'UTC')),
    ...[standing, title, text, source].map(textCell),
    { value: confidence, type: Number, format: '0.00' },
    textCell(note ?? null),
    textCell(files.join('\n')),
  ]
}

// What looks like a formula is a text of its own type, which no program works out.
const textCell = (value: string | null) =>
  value === null || value === ''
    ? null
    : { value: shownText(value).slice(0, MOST_LETTERS).toWellFormed(), type: String }

/** A cell knows no zone: it shows what the zone's clocks showed. */
function timeCell(time: string | null) {
  const at = time === null ? Number.NaN : Date.parse(`${time.replace(' ', 'T')}${time.length > 10 ? ':00Z' : ''}`)
  return Number.isNaN(at) ? null : { value: new Date(at), type: Date, format: 'yyyy-mm-dd hh:mm' }
}
