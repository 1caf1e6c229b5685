import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Sighting } from '../categories/types.js'
import { PAYLOAD } from './bag-types.js'
import { type Attached, ConversationFiles, whoOf } from './conversation-files.js'
import { oneLine } from './fields.js'
import type { HandoverItem } from './format.js'
import { shownText } from './plain-text.js'

// What is larger lies beside the mailbox alone.
const MOST_ATTACHED = 10 << 20
// A number is no address of mail; this domain never is one (RFC 2606, section 2).
const NO_MAIL = 'number.invalid'

/**
 * Conversations as mailboxes, a mail for each message (RFC 5322, RFC 2045; mbox as in RFC 4155, with lines that look like
 * its own quoted): mail programs open, search and print them.
 */
export class MailboxWriter extends ConversationFiles {
  protected readonly ending = 'mbox'
  protected head(): string {
    return ''
  }
  protected day(): string {
    return ''
  }
  protected foot(): string {
    return ''
  }

  protected async message(item: HandoverItem, attachments: readonly Attached[]): Promise<string> {
    const { default: MailComposer } = await import('nodemailer/lib/mail-composer')
    const { sighting, standing } = item
    const at = new Date(sighting.when ?? 0)
    const files = await Promise.all(attachments.map((one) => this.#fileOf(one)))
    const mail = new MailComposer({
      ...peopleOf(sighting),
      date: at,
      subject: oneLine(sighting.title) || 'Conversation unknown',
      messageId: `<${idOf(sighting)}>`,
      ...(typeof sighting.fields.replyTo === 'string'
        ? { inReplyTo: `<${local(sighting.fields.replyTo)}@${NO_MAIL}>` }
        : {}),
      headers: { 'X-Standing': standing },
      text: shownText(sighting.text ?? ''),
      attachments: files.filter((file) => file !== null),
      disableFileAccess: true,
      disableUrlAccess: true,
    })
    const bytes = await mail.compile().build()
    const lines = bytes
      .toString('latin1')
      .replaceAll('\r\n', '\n')
      .replace(/^(>*From )/gm, '>$1')
    // A mail is ASCII: all else in it is encoded.
    return `From - ${asctime(at)}\n${lines.trimEnd()}\n\n`
  }

  async #fileOf({ name, mime, place, bytes }: Attached) {
    if (place === null || bytes > MOST_ATTACHED) return null
    const { staging, destination } = this.context.bag
    const inside = join(PAYLOAD, this.folder, place)
    const content = await readFile(join(staging, inside)).catch(() =>
      readFile(join(destination, inside)).catch(() => null),
    )
    return content && { filename: oneLine(name), contentType: mime || 'application/octet-stream', content }
  }
}

const local = (text: string): string => text.replace(/[^\w.+-]/g, '_').slice(0, 60) || 'unknown'

const idOf = ({ fields, origin }: Sighting): string =>
  `${local(typeof fields.guid === 'string' ? fields.guid : `${origin.path}-${origin.rowid}-${origin.offset}`)}@${NO_MAIL}`

/** Who wrote to whom. */
function peopleOf(sighting: Sighting) {
  const { fields, title } = sighting
  const owner = { name: 'Owner', address: `owner@${NO_MAIL}` }
  const address = (text: unknown) =>
    typeof text === 'string' && /^[^\s@<>]+@[^\s@<>]+$/.test(text)
      ? text
      : `${local(String(text ?? 'unknown'))}@${NO_MAIL}`
  if (fields.direction !== 'out')
    return { from: { name: oneLine(whoOf(sighting)), address: address(fields.sender) }, to: [owner] }
  const recipients = Array.isArray(fields.recipients) ? fields.recipients : []
  const to = recipients.length > 0 ? recipients : [title]
  return {
    from: owner,
    to: to.map((one) => ({ name: oneLine(String(recipients.length === 1 ? title : one)), address: address(one) })),
  }
}

/** `Sat May  2 10:00:00 2026`, in UTC, as the line before each mail has it (RFC 4155, appendix A). */
function asctime(at: Date): string {
  const [weekday, day = '', month, year, time] = at.toUTCString().replace(',', '').split(' ')
  return `${weekday} ${month} ${String(Number(day)).padStart(2)} ${time} ${year}`
}
