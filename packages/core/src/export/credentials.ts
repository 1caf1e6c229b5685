import { csvLine } from './csv.js'
import type { FormatWriter, HandoverItem, PackageContext } from './format.js'
import type { OpenFile } from './open-file.js'

const COLUMNS = ['server', 'service', 'account', 'password', 'label', 'modifiedAt'] as const

/** Saved passwords in plain words (CSV, RFC 4180). They are read from the source for this, and for nothing before. */
export class CredentialsWriter implements FormatWriter {
  #file: OpenFile | undefined

  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  async add({ sighting, reveal }: HandoverItem): Promise<void> {
    if (!this.#file) {
      this.#file = await this.context.bag.open(this.context.places.take(this.folder, 'saved passwords.csv'))
      await this.#file.write(csvLine([...COLUMNS]))
    }
    const { fields } = sighting
    const password = await reveal(String(fields.secretAt))
    if (password === undefined) this.context.note(`${sighting.title}: its password could not be opened.`)
    const value = (name: string) => (typeof fields[name] === 'string' ? (fields[name] as string) : null)
    await this.#file.write(csvLine(COLUMNS.map((name) => (name === 'password' ? (password ?? null) : value(name)))))
  }

  async finish(): Promise<void> {
    await this.#file?.close()
  }
}
