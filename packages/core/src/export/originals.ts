import { chunksOf } from '../io/source.js'
import type { FormatWriter, HandoverItem, PackageContext } from './format.js'

/** Files as they are, byte for byte, in folders by year and month, with their time as the file's time. */
export class OriginalsWriter implements FormatWriter {
  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  async add({ sighting, open }: HandoverItem): Promise<void> {
    const { content, when } = sighting
    if (!content) return this.context.note(`${sighting.title}: only its name and dates are left, not its content.`)
    const source = await open(content.domain, content.path)
    if (!source) return this.context.note(`${sighting.title}: its content is not in the source.`)
    try {
      const shelf = when ? `${when.slice(0, 4)}/${when.slice(5, 7)}` : 'undated'
      const place = this.context.places.take(`${this.folder}/${shelf}`, content.name)
      await this.context.bag.write(place, chunksOf(source), when ? new Date(when) : null)
    } finally {
      await source.close()
    }
  }

  async finish(): Promise<void> {}
}
