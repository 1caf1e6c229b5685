import { addressKey } from '../categories/contacts/names.js'
import type { Json, Sighting } from '../categories/types.js'
import { recordsOf } from './fields.js'

const MOST_REMEMBERED = 20_000

/**
 * Names of people by their numbers and addresses, from the cards of all sources of a job: what one source's own address
 * book does not know, another's may.
 */
export class NamesAcross {
  readonly #names = new Map<string, string>()
  readonly #asked = new Map<string, string | null>()

  /** Takes a card. Of two that share a number the first stays: the newest is to come first. */
  add({ title, fields }: Pick<Sighting, 'title' | 'fields'>): void {
    if (title === '') return
    for (const { value } of [...recordsOf(fields.phones), ...recordsOf(fields.emails)]) {
      if (typeof value !== 'string' || value === '' || value === title) continue
      const key = addressKey(value, undefined)
      if (key !== '' && !this.#names.has(key)) this.#names.set(key, title)
    }
  }

  /** The name that goes with an address; null: no card has it. */
  of(address: string): string | null {
    const known = this.#asked.get(address)
    if (known !== undefined) return known
    const name = this.#names.get(addressKey(address, undefined)) ?? null
    if (this.#asked.size < MOST_REMEMBERED) this.#asked.set(address, name)
    return name
  }

  /** An item with the names that its own source does not know; what that knows stays. */
  given<Item extends Pick<Sighting, 'category' | 'title' | 'fields'>>(sighting: Item): Item {
    if (this.#names.size === 0) return sighting
    const { fields } = sighting
    if (sighting.category === 'messages' || sighting.category === 'chats') {
      const senderName = this.#unless(fields.senderName, fields.sender)
      return {
        ...sighting,
        title: this.#inTitle(sighting.title),
        fields: senderName === null ? fields : { ...fields, senderName },
      }
    }
    if (sighting.category === 'calls' || sighting.category === 'voicemail') {
      const name = this.#unless(fields.name, fields.address ?? fields.sender)
      return name === null ? sighting : { ...sighting, title: name, fields: { ...fields, name } }
    }
    return sighting
  }

  /** The name of an address, unless there is one already. */
  #unless(name: Json | undefined, address: Json | undefined): string | null {
    if (typeof name === 'string' && name !== '') return null
    return typeof address === 'string' && address !== '' ? this.of(address) : null
  }

  /** The title of a conversation without a name of its own lists those who take part. */
  #inTitle(title: string): string {
    return title
      .split(', ')
      .map((part) => (/^\+?[\d\s().-]{5,}$|@/.test(part) ? (this.of(part) ?? part) : part))
      .join(', ')
  }
}
