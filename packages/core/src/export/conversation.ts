import { type AttachmentRef, attachmentsOf } from '../categories/attachments.js'
import { chunksOf } from '../io/source.js'
import type { OpenFile } from './bag.js'
import type { FormatWriter, HandoverItem, PackageContext } from './format.js'
import { escapeHtml, page } from './html.js'

interface PageInProgress {
  key: string
  file: OpenFile
  foot: string
  day: string
}

/** Conversations as pages, one each, with their attachments in a folder beside them. */
export class ConversationWriter implements FormatWriter {
  #page: PageInProgress | undefined

  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  async add(item: HandoverItem): Promise<void> {
    const { fields } = item.sighting
    const key = typeof fields.conversation === 'string' ? fields.conversation : ''
    if (this.#page?.key !== key)
      await this.#begin(key, key === '' ? 'Conversation unknown' : item.sighting.title || key)
    const open = this.#page as PageInProgress
    const day = item.sighting.when?.slice(0, 10) ?? 'No date'
    if (day !== open.day) await open.file.write(`<h2>${escapeHtml(day)}</h2>\n`)
    open.day = day
    await open.file.write(await this.#message(item))
  }

  async finish(): Promise<void> {
    if (!this.#page) return
    await this.#page.file.write(this.#page.foot)
    await this.#page.file.close()
    this.#page = undefined
  }

  async #begin(key: string, title: string): Promise<void> {
    await this.finish()
    const file = await this.context.bag.open(this.context.places.take(this.folder, `${title}.html`))
    const [head = '', foot = ''] = page(
      title,
      `<h1>${escapeHtml(title)}</h1><p class="soft">Times are UTC. A dashed outline marks a message that was deleted.</p>\n\0`,
    ).split('\0')
    await file.write(head)
    this.#page = { key, file, foot, day: '' }
  }

  async #message({ sighting, standing, open }: HandoverItem): Promise<string> {
    const { fields } = sighting
    const outgoing = fields.direction === 'out'
    const who = outgoing ? 'Me' : String(fields.sender ?? 'unknown sender')
    const time = sighting.when?.slice(11, 16) ?? ''
    const attachments = await Promise.all(
      attachmentsOf(sighting).map((attachment) => this.#attachment(attachment, open)),
    )
    const classes = `m${outgoing ? ' out' : ''}${standing === 'kept' ? '' : ' lost'}`
    const note = standing === 'kept' ? '' : ` · ${standing}`
    return `<div class="${classes}"><small>${escapeHtml(`${who} · ${time}${note}`)}</small>${escapeHtml(sighting.text ?? '')}${attachments.join('')}</div>\n`
  }

  async #attachment({ name, mime, domain, path }: AttachmentRef, open: HandoverItem['open']): Promise<string> {
    const source = path === null ? undefined : await open(domain, path)
    if (!source) return `<div class="soft">${escapeHtml(name)} (its content is not in the source)</div>`
    try {
      const place = this.context.places.take(`${this.folder}/attachments`, name)
      await this.context.bag.write(place, chunksOf(source))
      const link = escapeHtml(
        place
          .slice(this.folder.length + 1)
          .split('/')
          .map(encodeURIComponent)
          .join('/'),
      )
      const shown = mime.startsWith('image/') ? `<img src="${link}" alt="">` : ''
      return `<a href="${link}">${shown}${escapeHtml(name)}</a>`
    } finally {
      await source.close()
    }
  }
}
