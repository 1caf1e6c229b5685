import type { ContentRef, Sighting } from '../categories/types.js'
import { itemDay } from '../findings/item-time.js'
import { type FormatWriter, type HandoverItem, type PackageContext, useContent } from './format.js'

/** Files as they are, byte for byte, in folders by year and month, with their time as the file's time. */
export class OriginalsWriter implements FormatWriter {
  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  /** The folders inside of the category's that an item goes to. */
  protected shelvesOf(sighting: Sighting): string[] {
    const day = itemDay(sighting, this.context.timeZone)
    return [day === null ? 'undated' : `${day.slice(0, 4)}/${day.slice(5, 7)}`]
  }

  /** Whether a file is left out where the same bytes lie in the package already. */
  protected get isOnce(): boolean {
    return this.context.duplicates === 'once'
  }

  async add(item: HandoverItem): Promise<void> {
    const { title, content } = item.sighting
    if (!content) return this.context.missed(`${title}: only its name and dates are left, not its content.`)
    for (const shelf of this.shelvesOf(item.sighting)) await this.#addTo(shelf, item, content)
  }

  async #addTo(shelf: string, item: HandoverItem, content: ContentRef): Promise<void> {
    const { sighting, source: from } = item
    const { when, title } = sighting
    const { bag, places, missed, placed } = this.context
    const folder = `${this.folder}/${shelf}`
    const key = `${folder}\0${from?.path ?? ''}\0${content.domain}\0${content.path}\0${content.range?.start ?? ''}`
    const place = places.take(folder, content.name)
    const options = { key, modifiedAt: when ? new Date(when) : null, once: this.isOnce }
    const lack = (why: string) => missed(`${title}: ${why}`)
    const written = await useContent(item, content, lack, async (source) => {
      if (source.size <= bag.mostFileBytes) return bag.writeContent(place, source, options)
      lack('it is longer than this disk can hold in one file (FAT holds 4 GB). Choose a disk with exFAT or another.')
      return undefined
    })
    if (written?.place !== place) places.free(place)
    if (written) placed(written.place)
  }

  async finish(): Promise<void> {}
}

/**
 * The same in folders by album, each whole: what lies in several is copied into each, since file systems of sticks know no
 * links. What lies in none goes to a folder of its own.
 */
export class AlbumsWriter extends OriginalsWriter {
  protected override shelvesOf(sighting: Sighting): string[] {
    const { albums } = sighting.fields
    const names = (Array.isArray(albums) ? albums : []).filter((one) => typeof one === 'string' && one !== '')
    return names.length > 0
      ? names.map((name) => `albums/${String(name).replaceAll('/', ' ')}`)
      : ['albums/in no album']
  }

  protected override get isOnce(): boolean {
    return false
  }
}
