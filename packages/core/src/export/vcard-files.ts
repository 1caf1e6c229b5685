import type { FormatWriter, HandoverItem, PackageContext } from './format.js'
import { cardText } from './vcard.js'

/** Contacts as vCard 4.0, a file for each: what a phone or a mail program takes one by one. */
export class VcardFilesWriter implements FormatWriter {
  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  async add(item: HandoverItem): Promise<void> {
    const place = this.context.places.take(`${this.folder}/one by one`, `${item.sighting.title}.vcf`)
    await this.context.bag.write(place, cardText(item))
    this.context.placed(place)
  }

  async finish(): Promise<void> {}
}
