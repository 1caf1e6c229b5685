import type { OpenFile } from './bag.js'
import { csvLine, timeCells, timeHeads } from './csv.js'
import type { HandoverItem, PackageContext } from './format.js'
import type { PackagedItem } from './packaged.js'

const HEADS = ['title', 'text', 'standing', 'source', 'file', 'table', 'place', 'confidence', 'files']

/** Every item of the package: with all its fields and its provenance as JSON Lines, in short as one CSV table. */
export class IndexWriter {
  #lines: OpenFile | undefined
  #table: OpenFile | undefined

  constructor(readonly context: PackageContext) {}

  /** `files`: where the item lies in the package. `missed`: its content could not be written. */
  async add(
    { sighting, standing, source }: Pick<HandoverItem, 'sighting' | 'standing' | 'source'>,
    files: readonly string[],
    missed: boolean,
  ): Promise<void> {
    await this.addLine({ ...sighting, standing, source: source?.name ?? null, files, ...(missed ? { missed } : {}) })
  }

  /** The same of an item that an earlier handover put into the package. */
  async addLine(item: PackagedItem): Promise<void> {
    this.#lines ??= await this.context.bag.open('index.jsonl')
    await this.#lines.write(`${JSON.stringify(item)}\n`)
    if (!this.#table) {
      this.#table = await this.context.bag.open('index.csv')
      await this.#table.write(csvLine(['category', ...timeHeads(this.context.timeZone), ...HEADS]))
    }
    const { category, title, text, standing, source, origin, confidence, files } = item
    const times = timeCells(item, this.context.timeZone)
    const cells = [category, ...times, title, text, standing, source, origin.path, origin.table, origin.place]
    await this.#table.write(csvLine([...cells, confidence, files.join('; ')]))
  }

  async finish(): Promise<void> {
    await this.#lines?.close()
    await this.#table?.close()
  }
}
