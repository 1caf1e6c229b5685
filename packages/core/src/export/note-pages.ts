import type { Json } from '../categories/types.js'
import type { FormatWriter, HandoverItem, PackageContext } from './format.js'
import { escapeHtml, page } from './html.js'

/** Notes as a page and a plain text each. */
export class NotePagesWriter implements FormatWriter {
  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  async add({ sighting, standing }: HandoverItem): Promise<void> {
    const { fields, title, text, when } = sighting
    const shelf =
      typeof fields.folder === 'string' ? `${this.folder}/${fields.folder.replaceAll('/', ' ')}` : this.folder
    const facts = [when?.slice(0, 10), standing === 'kept' ? '' : standing].filter(Boolean).join(' · ')
    const body = text === null ? '<p class="soft">Its text could not be had.</p>' : paragraphs(fields.paragraphs, text)
    const html = page(title, `<p class="soft">${escapeHtml(facts)}</p>\n${body}`)
    const date = when ? new Date(when) : null
    await this.context.bag.write(this.context.places.take(shelf, `${title}.html`), html, date)
    if (text !== null) await this.context.bag.write(this.context.places.take(shelf, `${title}.txt`), text, date)
  }

  async finish(): Promise<void> {}
}

const TAGS: Record<string, string> = { title: 'h1', heading: 'h2', subheading: 'h3', monospaced: 'pre' }

function paragraphs(list: Json | undefined, text: string): string {
  const items = Array.isArray(list) ? list : text.split('\n')
  return items.map(paragraph).join('\n')
}

function paragraph(item: Json): string {
  if (typeof item !== 'object' || item === null || Array.isArray(item)) return `<p>${escapeHtml(String(item))}</p>`
  const words = escapeHtml(String(item.text ?? ''))
  if (item.style === 'checklist') return `<p>${item.done ? '☑' : '☐'} ${words}</p>`
  if (item.style === 'dotted' || item.style === 'dashed' || item.style === 'numbered') return `<li>${words}</li>`
  const tag = TAGS[String(item.style)] ?? 'p'
  return `<${tag}>${words}</${tag}>`
}
