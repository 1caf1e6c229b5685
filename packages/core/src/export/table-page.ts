import type { Json } from '../categories/types.js'
import { itemTime } from '../findings/item-time.js'
import { isPicture, tableColumns } from './csv.js'
import type { HandoverItem } from './format.js'
import { escapeHtml, page } from './html.js'
import { SingleFileWriter } from './single-file.js'

/** The items of a category as a page with a table. */
export class TablePageWriter extends SingleFileWriter {
  protected readonly ending = 'html'
  #columns: string[] = []
  #foot = ''

  protected head({ sighting }: HandoverItem): string {
    this.#columns = tableColumns(sighting.fields)
    const heads = [`when (${this.context.timeZone})`, ...['standing', ...this.#columns].map(words)]
      .map((name) => `<th>${escapeHtml(name)}</th>`)
      .join('')
    const [head = '', foot = ''] = page(
      words(this.folder),
      `<h1>${escapeHtml(words(this.folder))}</h1>\n<table><tr>${heads}</tr>\n\0</table>`,
    ).split('\0')
    this.#foot = foot
    return head
  }

  protected foot(): string {
    return this.#foot
  }

  protected item({ sighting, standing }: HandoverItem): string {
    const when = itemTime(sighting, this.context.timeZone) ?? ''
    const cells = [when, standing, ...this.#columns.map((column) => cellText(sighting.fields[column] ?? null))]
    return `<tr>${cells.map((cell) => `<td>${escapeHtml(cell)}</td>`).join('')}</tr>\n`
  }
}

const words = (name: string) =>
  name
    .replace(/([A-Z])/g, ' $1')
    .replaceAll('-', ' ')
    .toLowerCase()

function cellText(value: Json): string {
  if (value === null) return ''
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (isPicture(value)) return 'yes'
  if (Array.isArray(value)) return value.map(cellText).join(', ')
  return typeof value === 'object' ? Object.values(value).map(cellText).join(' ') : String(value)
}
