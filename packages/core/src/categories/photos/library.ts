import type { Database } from '../../sqlite/database.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'

/** What the photo library knows of its pictures beside their own rows. */
export class LibraryContext {
  readonly #attributes = new Map<number, Row['values']>()
  readonly #albums = new Map<number, string[]>()

  static async load(database: Database): Promise<LibraryContext> {
    const context = new LibraryContext()
    for (const row of database.rows('ZADDITIONALASSETATTRIBUTES')) {
      const asset = numberValue(row.values.ZASSET)
      if (asset !== null) context.#attributes.set(asset, row.values)
    }
    await context.#loadAlbums(database)
    return context
  }

  attributes(asset: number | null): Row['values'] {
    return (asset !== null && this.#attributes.get(asset)) || {}
  }

  albums(asset: number | null): string[] {
    return (asset !== null && this.#albums.get(asset)) || []
  }

  // The join table's number differs by system version (Z_26ASSETS, Z_28ASSETS, …): found by its shape.
  async #loadAlbums(database: Database): Promise<void> {
    const titles = new Map<number, string>()
    for (const row of database.rows('ZGENERICALBUM')) {
      const title = textValue(row.values.ZTITLE)
      const id = numberValue(row.rowid)
      if (title && id !== null && numberValue(row.values.ZTRASHEDSTATE) !== 1) titles.set(id, title)
    }
    for (const table of database.tables.values()) {
      const columns = table.columns.map((column) => column.name)
      const album = columns.find((name) => /^Z_\d+ALBUMS$/.test(name))
      const asset = columns.find((name) => /^Z_\d+ASSETS\d*$/.test(name))
      if (!/^Z_\d+ASSETS$/.test(table.name) || !album || !asset) continue
      for (const row of database.rows(table.name))
        this.#addAlbum(numberValue(row.values[asset]), titles.get(numberValue(row.values[album]) ?? -1))
    }
  }

  #addAlbum(asset: number | null, title: string | undefined): void {
    if (asset === null || title === undefined) return
    const known = this.#albums.get(asset)
    if (known) known.push(title)
    else this.#albums.set(asset, [title])
  }
}
