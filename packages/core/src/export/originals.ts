import type { Sighting } from '../categories/types.js'
import { itemDay } from '../findings/item-time.js'
import { type FormatWriter, type HandoverItem, type PackageContext, useContent } from './format.js'

/** Files as they are, byte for byte, in folders by year and month, with their time as the file's time. */
export class OriginalsWriter implements FormatWriter {
  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  /** The folder inside of the category's that an item goes to. */
  protected shelfOf(sighting: Sighting): string {
    const day = itemDay(sighting, this.context.timeZone)
    return day === null ? 'undated' : `${day.slice(0, 4)}/${day.slice(5, 7)}`
  }

  async add(item: HandoverItem): Promise<void> {
    const { sighting, source: from } = item
    const { content, when, title } = sighting
    const { bag, places, duplicates, missed, placed } = this.context
    if (!content) return missed(`${title}: only its name and dates are left, not its content.`)
    const folder = `${this.folder}/${this.shelfOf(sighting)}`
    const key = `${folder}\0${from?.path ?? ''}\0${content.domain}\0${content.path}\0${content.range?.start ?? ''}`
    const place = places.take(folder, content.name)
    const options = { key, modifiedAt: when ? new Date(when) : null, once: duplicates === 'once' }
    const lack = (why: string) => missed(`${title}: ${why}`)
    const written = await useContent(item, content, lack, (source) => bag.writeContent(place, source, options))
    if (written?.place !== place) places.free(place)
    if (written) placed(written.place)
  }

  async finish(): Promise<void> {}
}

/** The same in folders by album; what lies in several goes to the first, what lies in none to a folder of its own. */
export class AlbumsWriter extends OriginalsWriter {
  protected override shelfOf(sighting: Sighting): string {
    const { albums } = sighting.fields
    const album = Array.isArray(albums) ? albums[0] : undefined
    return typeof album === 'string' && album !== '' ? album.replaceAll('/', ' ') : 'in no album'
  }
}
