import { readAll } from '../io/source.js'
import { jpegOfHeic } from '../media/heic.js'
import type { FormatWriter, HandoverItem, PackageContext } from './format.js'

// A picture of today's devices takes a few megabytes; far beyond that it is made up.
const MOST_BYTES = 100_000_000
const HEIC = /\.hei[cf]$/i

/** Pictures in HEIC once more as JPEG, for programs that do not show HEIC. */
export class JpegWriter implements FormatWriter {
  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  async add({ sighting: { content, when, title }, open }: HandoverItem): Promise<void> {
    if (!content || !HEIC.test(content.name)) return
    const source = await open(content.domain, content.path, content.range)
    if (!source) return
    try {
      const jpeg = await jpegOfHeic(await readAll(source, MOST_BYTES))
      const place = this.context.places.take(`${this.folder}/as JPEG`, content.name.replace(HEIC, '.jpg'))
      await this.context.bag.write(place, jpeg, when ? new Date(when) : null)
    } catch (thrown) {
      if (!(thrown instanceof Error)) throw thrown
      this.context.note(`${title}: no JPEG could be made of it (${thrown.message}); the original is not affected.`)
    } finally {
      await source.close()
    }
  }

  async finish(): Promise<void> {}
}
