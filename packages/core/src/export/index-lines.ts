import type { OpenFile } from './bag.js'
import type { HandoverItem, PackageContext } from './format.js'

/** Every item of the package with all its fields and its provenance, as JSON Lines. */
export class IndexWriter {
  #file: OpenFile | undefined

  constructor(readonly context: PackageContext) {}

  async add({ sighting, standing }: HandoverItem): Promise<void> {
    this.#file ??= await this.context.bag.open(this.context.places.take('.', 'index.jsonl').slice(2))
    await this.#file.write(`${JSON.stringify({ ...sighting, standing })}\n`)
  }

  async finish(): Promise<void> {
    await this.#file?.close()
  }
}
