import { itemTime } from '../findings/item-time.js'
import { type Attached, ConversationFiles, whoOf } from './conversation-files.js'
import type { HandoverItem } from './format.js'
import { plainText } from './plain-text.js'

/** Conversations as plain text, a message a paragraph. */
export class ConversationTextWriter extends ConversationFiles {
  protected readonly ending = 'txt'

  protected head(title: string): string {
    return `${plainText(title)}\nTimes are those of ${this.context.timeZone}.\n`
  }

  protected day(day: string): string {
    return `\n== ${day} ==\n`
  }

  protected foot(): string {
    return ''
  }

  protected message({ sighting, standing }: HandoverItem, attachments: readonly Attached[]): string {
    const who = whoOf(sighting)
    const time = itemTime(sighting, this.context.timeZone)?.slice(11)
    const facts = [time, who, standing === 'kept' ? '' : standing].filter(Boolean).join(', ')
    // Lines of a text stand further in than the heads, so that no text can pass for another message.
    const lines = (sighting.text ?? '').split('\n').filter((line) => line !== '')
    const files = attachments.map(({ name, place }) => `[${name}: ${place ?? 'its content is not in the source'}]`)
    return `\n[${plainText(facts)}]\n${[...lines, ...files].map((line) => `  ${plainText(line)}\n`).join('')}`
  }
}
