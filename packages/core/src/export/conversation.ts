import { itemTime } from '../findings/item-time.js'
import { linkTo } from './attached.js'
import { type Attached, ConversationFiles, whoOf } from './conversation-files.js'
import type { HandoverItem } from './format.js'
import { escapeHtml, page } from './html.js'

/** Conversations as pages that look like conversations. */
export class ConversationWriter extends ConversationFiles {
  protected readonly ending = 'html'
  #foot = ''

  protected head(title: string): string {
    const [head = '', foot = ''] = page(
      title,
      `<h1>${escapeHtml(title)}</h1><p class="soft">Times are those of ${escapeHtml(this.context.timeZone)}. A dashed outline marks a message that was deleted.</p>\n\0`,
    ).split('\0')
    this.#foot = foot
    return head
  }

  protected day(day: string): string {
    return `<h2>${escapeHtml(day)}</h2>\n`
  }

  protected foot(): string {
    return this.#foot
  }

  protected message({ sighting, standing }: HandoverItem, attachments: readonly Attached[]): string {
    const outgoing = sighting.fields.direction === 'out'
    const who = whoOf(sighting)
    const time = itemTime(sighting, this.context.timeZone)?.slice(11) ?? ''
    const inUtc = itemTime(sighting, 'UTC')
    const classes = `m${outgoing ? ' out' : ''}${standing === 'kept' ? '' : ' lost'}`
    const note = standing === 'kept' ? '' : ` · ${standing}`
    return `<div class="${classes}"><small${inUtc ? ` title="${inUtc} UTC"` : ''}>${escapeHtml(`${who} · ${time}${note}`)}</small>${escapeHtml(sighting.text ?? '')}${attachments.map(attachmentHtml).join('')}</div>\n`
  }
}

function attachmentHtml({ name, mime, place }: Attached): string {
  if (place === null) return `<div class="soft">${escapeHtml(name)} (its content is not in the source)</div>`
  const link = escapeHtml(linkTo(place))
  const shown = mime.startsWith('image/') ? `<img src="${link}" alt="">` : ''
  return `<a href="${link}">${shown}${escapeHtml(name)}</a>`
}
