import type { SourceTree } from '../../backup/types.js'
import { kindOfBytes } from '../../media/signatures.js'
import { numberValue } from '../../sqlite/values.js'
import { openStore } from '../open.js'

/** Where pictures of people lie (from memory), beside the address book. */
const PICTURES = { domain: 'HomeDomain', path: 'Library/AddressBook/AddressBookImages.sqlitedb' }
// Small pictures first: they are what a list of people needs, and what a card carries.
const TABLES = ['ABThumbnailImage', 'ABFullSizeImage']

// A small picture takes a few kilobytes; what is far larger stays out of cards.
const MOST_BYTES = 200_000
const MOST_PEOPLE = 20_000

/** A picture of a person, as a card carries it. */
export type ContactPicture = { mime: string; base64: string }

/** The pictures of people by the row of their card; empty where there are none, or they cannot be read. */
export async function contactPictures(tree: SourceTree): Promise<Map<number, ContactPicture>> {
  const pictures = new Map<number, ContactPicture>()
  // The address book is whole without them; what is wrong with them is no matter of the cards.
  const store = await openStore(tree, [PICTURES], () => {})
  if (!store) return pictures
  try {
    for (const name of TABLES) {
      const table = store.database.tables.get(name)
      if (!table) continue
      for (const { values } of store.database.rows(name)) {
        const person = numberValue(values.record_id)
        const { data } = values
        if (person === null || pictures.has(person) || pictures.size >= MOST_PEOPLE) continue
        if (!(data instanceof Uint8Array) || data.length > MOST_BYTES) continue
        const kind = kindOfBytes(data)
        if (kind?.mime === 'image/jpeg' || kind?.mime === 'image/png')
          pictures.set(person, { mime: kind.mime, base64: Buffer.from(data).toString('base64') })
      }
    }
  } finally {
    await store.close()
  }
  return pictures
}
