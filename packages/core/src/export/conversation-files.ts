import type { AttachmentRef } from '../categories/attachments.js'
import { attachmentsOf } from '../categories/attachments.js'
import type { Sighting } from '../categories/types.js'
import { itemDay } from '../findings/item-time.js'
import { writeAttachment } from './attached.js'
import type { FormatWriter, HandoverItem, PackageContext } from './format.js'
import type { OpenFile } from './open-file.js'

/** An attachment, and where it lies as seen from the folder of its category; null: its content could not be had. */
export interface Attached extends AttachmentRef {
  place: string | null
}

interface FileInProgress {
  key: string
  file: OpenFile
  path: string
  day: string
}

/**
 * Whom a message is from: the name that the source's own address book has, with the address beside it. Where its
 * conversation is lost, an outgoing one says to whom it went.
 */
export function whoOf({ fields, title }: Sighting): string {
  if (fields.direction === 'out') {
    const addresses = Array.isArray(fields.recipients) ? fields.recipients.map(String) : []
    const to = fields.conversation ? '' : [title, ...addresses.filter((one) => !title.includes(one))].join(', ')
    return to === '' ? 'Me' : `Me, to ${to}`
  }
  const address = typeof fields.sender === 'string' ? fields.sender : null
  const name = typeof fields.senderName === 'string' && fields.senderName !== '' ? fields.senderName : null
  if (name === null) return address ?? 'unknown sender'
  return address === null || address === name ? name : `${name} (${address})`
}

/** A format that writes a file for each conversation, day by day, with the attachments in a folder beside them. */
export abstract class ConversationFiles implements FormatWriter {
  #open: FileInProgress | undefined

  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  /** The files' ending, their first bytes, a new day's, an item's, and their last ones. */
  protected abstract readonly ending: string
  protected abstract head(title: string): string
  protected abstract day(day: string): string
  protected abstract message(item: HandoverItem, attachments: readonly Attached[]): string | Promise<string>
  protected abstract foot(): string

  async add(item: HandoverItem): Promise<void> {
    const { fields, title } = item.sighting
    const key = typeof fields.conversation === 'string' ? fields.conversation : ''
    if (this.#open?.key !== key) await this.#begin(key, key === '' ? 'Conversation unknown' : title || key)
    const open = this.#open as FileInProgress
    const day = itemDay(item.sighting, this.context.timeZone) ?? 'No date'
    if (day !== open.day) await open.file.write(this.day(day))
    open.day = day
    const attachments: Attached[] = []
    for (const one of attachmentsOf(item.sighting)) {
      const place = await writeAttachment(this.context, `${this.folder}/attachments`, one, item)
      attachments.push({ ...one, place: place === null ? null : place.slice(this.folder.length + 1) })
    }
    await open.file.write(await this.message(item, attachments))
    this.context.placed(open.path)
  }

  async finish(): Promise<void> {
    if (!this.#open) return
    await this.#open.file.write(this.foot())
    await this.#open.file.close()
    this.#open = undefined
  }

  async #begin(key: string, title: string): Promise<void> {
    await this.finish()
    const path = this.context.places.take(this.folder, `${title}.${this.ending}`)
    const file = await this.context.bag.open(path)
    await file.write(this.head(title))
    this.#open = { key, file, path, day: '' }
  }
}
