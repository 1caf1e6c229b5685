import type { OpenFile } from './bag.js'
import { csvLine } from './csv.js'
import type { HandoverItem, PackageContext } from './format.js'

const HEADS = [
  'category',
  'when',
  'title',
  'text',
  'standing',
  'source',
  'file',
  'table',
  'place',
  'confidence',
  'files',
]

/** Every item of the package: with all its fields and its provenance as JSON Lines, in short as one CSV table. */
export class IndexWriter {
  #lines: OpenFile | undefined
  #table: OpenFile | undefined

  constructor(readonly context: PackageContext) {}

  /** `files`: where the item lies in the package. */
  async add({ sighting, standing, source }: HandoverItem, files: readonly string[]): Promise<void> {
    this.#lines ??= await this.#open('index.jsonl')
    await this.#lines.write(`${JSON.stringify({ ...sighting, standing, source: source ?? null, files })}\n`)
    if (!this.#table) {
      this.#table = await this.#open('index.csv')
      await this.#table.write(csvLine(HEADS))
    }
    const { category, when, title, text, origin, confidence } = sighting
    const cells = [category, when, title, text, standing, source ?? null, origin.path, origin.table, origin.place]
    await this.#table.write(csvLine([...cells, confidence, files.join('; ')]))
  }

  async finish(): Promise<void> {
    await this.#lines?.close()
    await this.#table?.close()
  }

  #open(name: string): Promise<OpenFile> {
    return this.context.bag.open(this.context.places.take('.', name).slice(2))
  }
}
