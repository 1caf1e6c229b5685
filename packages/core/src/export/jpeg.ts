import { messageOf } from '../io/errors.js'
import { readAll } from '../io/source.js'
import { jpegOfHeic } from '../media/heic.js'
import { type FormatWriter, type HandoverItem, type PackageContext, useContent } from './format.js'

// A picture of today's devices takes a few megabytes; far beyond that it is made up.
const MOST_BYTES = 100_000_000
const HEIC = /\.hei[cf]$/i

/** Pictures in HEIC once more as JPEG, for programs that do not show HEIC. */
export class JpegWriter implements FormatWriter {
  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  async add(item: HandoverItem): Promise<void> {
    const { content, when, title } = item.sighting
    if (!content || !HEIC.test(content.name)) return
    const lack = (why: string) => this.context.note(`${title}, as JPEG: ${why}`)
    const bytes = await useContent(item, content, lack, (source) => readAll(source, MOST_BYTES))
    const jpeg = bytes && (await this.#jpegOf(bytes, title))
    if (!jpeg) return
    const place = this.context.places.take(`${this.folder}/as JPEG`, content.name.replace(HEIC, '.jpg'))
    await this.context.bag.write(place, jpeg, when ? new Date(when) : null)
    this.context.placed(place)
  }

  async #jpegOf(bytes: Uint8Array, title: string): Promise<Uint8Array | undefined> {
    try {
      return await jpegOfHeic(bytes)
    } catch (thrown) {
      this.context.note(`${title}: no JPEG could be made of it (${messageOf(thrown)}); the original is not affected.`)
      return undefined
    }
  }

  async finish(): Promise<void> {}
}
