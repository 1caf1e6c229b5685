import { csvLine, timeCells, timeHeads } from './csv.js'
import type { HandoverItem, PackageContext } from './format.js'
import type { OpenFile } from './open-file.js'
import type { PackagedItem } from './packaged.js'

const HEADS = ['title', 'text', 'standing', 'source', 'file', 'table', 'place', 'confidence', 'files', 'note']

/** Every item of the package: with all its fields and its provenance as JSON Lines, in short as one CSV table. */
export class IndexWriter {
  #lines: OpenFile | undefined
  #table: OpenFile | undefined

  constructor(readonly context: PackageContext) {}

  /** `lies`: where the item and what hangs on it lie in the package; `missed`: its content could not be written. */
  async add(
    { sighting, standing, source, note }: Pick<HandoverItem, 'sighting' | 'standing' | 'source' | 'note'>,
    { files, attached, missed }: { files: readonly string[]; attached: readonly (string | null)[]; missed: boolean },
  ): Promise<void> {
    const marks = {
      ...(attached.length > 0 ? { attached } : {}),
      ...(note === undefined ? {} : { note }),
      ...(missed ? { missed } : {}),
    }
    await this.addLine({ ...sighting, standing, source: source?.name ?? null, files, ...marks })
  }

  /** The same of an item that an earlier handover put into the package. */
  async addLine(item: PackagedItem): Promise<void> {
    this.#lines ??= await this.context.bag.open('index.jsonl')
    await this.#lines.write(`${JSON.stringify(item)}\n`)
    if (!this.#table) {
      this.#table = await this.context.bag.open('index.csv')
      await this.#table.write(csvLine(['category', ...timeHeads(this.context.timeZone), ...HEADS]))
    }
    const { category, title, text, standing, source, origin, confidence, files, note = null } = item
    const times = timeCells(item, this.context.timeZone)
    const cells = [category, ...times, title, text, standing, source, origin.path, origin.table, origin.place]
    await this.#table.write(csvLine([...cells, confidence, files.join('; '), note]))
  }

  async finish(): Promise<void> {
    await this.#lines?.close()
    await this.#table?.close()
  }
}
