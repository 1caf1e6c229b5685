import { attachmentsOf } from '../categories/attachments.js'
import type { Json } from '../categories/types.js'
import { itemDay } from '../findings/item-time.js'
import { linkTo, writeAttachment } from './attached.js'
import type { FormatWriter, HandoverItem, PackageContext } from './format.js'
import { escapeHtml, page } from './html.js'
import { plainText } from './plain-text.js'

interface Attached {
  name: string
  mime: string
  /** As seen from the note's own folder; null: its content could not be had. */
  place: string | null
}

/** A format that writes a file for each note, in folders like the owner's, with the attachments beside them. */
abstract class NoteFiles implements FormatWriter {
  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  protected abstract readonly ending: string
  /** The file's text. `facts`: date and standing. */
  protected abstract body(item: HandoverItem, facts: string, attachments: readonly Attached[]): string

  async add(item: HandoverItem): Promise<void> {
    const { fields, title, when } = item.sighting
    const own = typeof fields.folder === 'string' ? fields.folder.replaceAll('/', ' ') : ''
    const place = this.context.places.take(
      own === '' ? this.folder : `${this.folder}/${own}`,
      `${title}.${this.ending}`,
    )
    const up = '../'.repeat(place.split('/').length - 2)
    const attachments: Attached[] = []
    for (const one of attachmentsOf(item.sighting)) {
      const at = await writeAttachment(this.context, `${this.folder}/attachments`, one, item)
      attachments.push({ ...one, place: at && up + linkTo(at.slice(this.folder.length + 1)) })
    }
    const day = itemDay(item.sighting, this.context.timeZone)
    const facts = [day, item.standing === 'kept' ? '' : item.standing].filter(Boolean).join(' · ')
    await this.context.bag.write(place, this.body(item, facts, attachments), when ? new Date(when) : null)
    this.context.placed(place)
  }

  async finish(): Promise<void> {}
}

const NO_TEXT = 'Its text could not be had.'

/** Notes as pages. */
export class NotePagesWriter extends NoteFiles {
  protected readonly ending = 'html'

  protected body({ sighting }: HandoverItem, facts: string, attachments: readonly Attached[]): string {
    const { fields, title, text } = sighting
    const body =
      text === null ? `<p class="soft">${NO_TEXT}</p>` : paragraphsOf(fields.paragraphs, text).map(html).join('\n')
    const files = attachments.map(({ name, mime, place }) => {
      if (place === null) return `<p class="soft">${escapeHtml(name)} (its content is not in the source)</p>`
      const shown = mime.startsWith('image/') ? `<img src="${escapeHtml(place)}" alt="" style="max-width:100%">` : ''
      return `<p><a href="${escapeHtml(place)}">${shown}${escapeHtml(name)}</a></p>`
    })
    return page(title, `<p class="soft">${escapeHtml(facts)}</p>\n${body}${files.join('')}`)
  }
}

/** Notes as plain text. */
export class NoteTextWriter extends NoteFiles {
  protected readonly ending = 'txt'

  protected body({ sighting }: HandoverItem, _facts: string, attachments: readonly Attached[]): string {
    const lines = (sighting.text ?? NO_TEXT).split('\n')
    const files = attachments.map(({ name, place }) => `[${name}: ${place ?? 'its content is not in the source'}]`)
    return `${[...lines, ...files].map(plainText).join('\n')}\n`
  }
}

/** Notes as Markdown (CommonMark 0.31, with the task lists of its common extension). */
export class NoteMarkdownWriter extends NoteFiles {
  protected readonly ending = 'md'

  protected body({ sighting }: HandoverItem, facts: string, attachments: readonly Attached[]): string {
    const { fields, text } = sighting
    const paragraphs =
      text === null ? [{ style: '', text: NO_TEXT, done: false, rows: [] }] : paragraphsOf(fields.paragraphs, text)
    const files = attachments.map(({ name, mime, place }) =>
      place === null
        ? `*${markdownText(name)}* (its content is not in the source)`
        : `${mime.startsWith('image/') ? '!' : ''}[${markdownText(name)}](${place.replaceAll('(', '%28').replaceAll(')', '%29')})`,
    )
    return `${[...paragraphs.map(markdown), ...files, markdownText(facts)].filter((part) => part !== '').join('\n\n')}\n`
  }
}

interface Paragraph {
  style: string
  text: string
  done: boolean
  /** Of a table. */
  rows: string[][]
}

function paragraphsOf(list: Json | undefined, text: string): Paragraph[] {
  return (Array.isArray(list) ? list : text.split('\n')).map((item) => {
    if (typeof item !== 'object' || item === null || Array.isArray(item))
      return { style: '', text: String(item), done: false, rows: [] }
    return {
      style: String(item.style),
      text: String(item.text ?? ''),
      done: item.done === true,
      rows: (Array.isArray(item.rows) ? item.rows : []).map((row) => (Array.isArray(row) ? row.map(String) : [])),
    }
  })
}

const TAGS: Record<string, string> = { title: 'h1', heading: 'h2', subheading: 'h3', monospaced: 'pre' }
const LISTS = ['dotted', 'dashed', 'numbered']

function html({ style, text, done, rows }: Paragraph): string {
  const words = escapeHtml(text)
  if (style === 'table') {
    const lines = rows.map((cells) => `<tr>${cells.map((cell) => `<td>${escapeHtml(cell)}</td>`).join('')}</tr>`)
    return `${words ? `<p>${words}</p>` : ''}<table>${lines.join('\n')}</table>`
  }
  if (style === 'checklist') return `<p>${done ? '☑' : '☐'} ${words}</p>`
  if (LISTS.includes(style)) return `<li>${words}</li>`
  const tag = TAGS[style] ?? 'p'
  return `<${tag}>${words}</${tag}>`
}

const MARKS: Record<string, string> = { title: '# ', heading: '## ', subheading: '### ', numbered: '1. ' }

/** A table as its common extension writes it; the first row is its head, which it cannot be without. */
function markdownTable([head = [], ...rest]: string[][]): string {
  const line = (cells: readonly string[]) => `| ${cells.join(' | ')} |`
  return [
    line(head.map(markdownText)),
    line(head.map(() => '---')),
    ...rest.map((row) => line(row.map(markdownText))),
  ].join('\n')
}

function markdown({ style, text, done, rows }: Paragraph): string {
  if (style === 'table') return [markdownText(text), markdownTable(rows)].filter(Boolean).join('\n\n')
  if (style === 'monospaced')
    return text
      .split('\n')
      .map((line) => `    ${plainText(line)}`)
      .join('\n')
  const words = markdownText(text)
  if (style === 'checklist') return `- [${done ? 'x' : ' '}] ${words}`
  if (style === 'dotted' || style === 'dashed') return `- ${words}`
  return `${words === '' ? '' : (MARKS[style] ?? '')}${words}`
}

/** Text in which nothing is taken for markup: CommonMark 0.31, section 2.4 lets any ASCII punctuation be escaped. */
const markdownText = (text: string): string =>
  plainText(text.replaceAll('\n', ' ')).replace(/[\\`*_{}[\]<>()#+\-.!|~&]/g, '\\$&')
