import { type CountryCode, isSupportedCountry, parsePhoneNumberFromString } from 'libphonenumber-js'
import type { SourceTree } from '../../backup/types.js'
import { numberValue, textValue } from '../../sqlite/values.js'
import { openStore } from '../open.js'
import { ADDRESS_BOOK, PROPERTY } from './book.js'

const MOST_REMEMBERED = 10_000

/** Names of people by their numbers and e-mail addresses, from the source's own address book. */
export class ContactNames {
  readonly #names = new Map<string, string>()
  readonly #asked = new Map<string, string | null>()

  /** `region`: two-letter country of the device, for numbers that were stored without their country's code. */
  static async load(tree: SourceTree, region: string | null): Promise<ContactNames> {
    const names = new ContactNames(countryOf(region))
    // What is wrong with the address book is told where it is read.
    const store = await openStore(tree, [ADDRESS_BOOK], () => {})
    if (!store) return names
    try {
      const people = new Map<number, string>()
      for (const { rowid, values } of store.database.rows('ABPerson')) {
        const name = [textValue(values.First), textValue(values.Last)].filter(Boolean).join(' ')
        people.set(numberValue(rowid) ?? -1, name || (textValue(values.Organization) ?? ''))
      }
      for (const { values } of store.database.rows('ABMultiValue')) names.#add(values, people)
    } finally {
      await store.close()
    }
    return names
  }

  private constructor(readonly region: CountryCode | undefined) {}

  #add(values: { [column: string]: unknown }, people: Map<number, string>): void {
    const property = values.property
    const name = people.get(Number(values.record_id))
    const address = typeof values.value === 'string' ? values.value : ''
    if (!name || address === '' || (property !== PROPERTY.phone && property !== PROPERTY.email)) return
    const key = addressKey(address, this.region)
    // Two people who share a number: neither name is right for sure, so the first card's stays.
    if (!this.#names.has(key)) this.#names.set(key, name)
  }

  /** The name that goes with an address; null where the address book has none. */
  of(address: string | null): string | null {
    if (address === null) return null
    // The same few people write most messages, and to parse a number costs more than to read a row.
    const known = this.#asked.get(address)
    if (known !== undefined) return known
    const name = this.#names.get(addressKey(address, this.region)) ?? null
    if (this.#asked.size < MOST_REMEMBERED) this.#asked.set(address, name)
    return name
  }
}

const countryOf = (region: string | null): CountryCode | undefined => {
  const code = region?.toUpperCase()
  return code && isSupportedCountry(code) ? code : undefined
}

/** One form for all ways to write an address: e-mail in lower case, numbers as in ITU-T E.164. */
export function addressKey(address: string, region: CountryCode | undefined): string {
  if (address.includes('@')) return address.trim().toLowerCase()
  return (
    parsePhoneNumberFromString(address, region ? { defaultCountry: region } : {})?.number ??
    address.replace(/[^\d+]/g, '')
  )
}
