import type { FormatWriter, HandoverItem, PackageContext } from './format.js'
import type { OpenFile } from './open-file.js'

/** A format that writes all items of a category into one file, which begins when the first item comes. */
export abstract class SingleFileWriter implements FormatWriter {
  #file: OpenFile | undefined

  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  /** The file's ending, its first bytes, an item, its last bytes. */
  protected abstract readonly ending: string
  protected abstract head(item: HandoverItem): string
  protected abstract item(item: HandoverItem): string
  protected abstract foot(): string

  async add(item: HandoverItem): Promise<void> {
    if (!this.#file) {
      this.#file = await this.context.bag.open(this.context.places.take(this.folder, `${this.folder}.${this.ending}`))
      await this.#file.write(this.head(item))
    }
    await this.#file.write(this.item(item))
  }

  async finish(): Promise<void> {
    await this.#file?.write(this.foot())
    await this.#file?.close()
  }
}
