import { readFile, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { LOST_STANDINGS } from '../../findings/standing.js'
import { digest } from '../../io/hash.js'
import { mimeOf } from '../../media/kinds.js'
import type { BagWriter } from '../bag.js'
import { PAYLOAD } from '../bag-types.js'
import type { HandoverItem } from '../format.js'
import type { SheetPicture } from '../report.js'
import { SITE } from './parts.js'

/** The longer side in pixels: of a thumbnail, and of the JPEG copy of a picture that browsers cannot show. */
export const PREVIEW_EDGES = { tile: 360, large: 1800 } as const

/** Makes a picture small (JPEG) from the file that holds it; undefined: it cannot be shown. */
export type MakePreview = (path: string, edge: number) => Promise<Uint8Array | undefined>

// A larger picture is looked at in a program of its own.
const MOST_BYTES = 100 << 20

/** Small pictures by a decoder; what it throws for bytes that are no picture is told by `isNone`: they get none. */
export const previewsBy =
  (show: (bytes: Uint8Array, edge: number) => Promise<Uint8Array>, isNone: (thrown: unknown) => boolean): MakePreview =>
  async (path, edge) => {
    if ((await stat(path)).size > MOST_BYTES) return undefined
    try {
      return await show(await readFile(path), edge)
    } catch (thrown) {
      if (isNone(thrown)) return undefined
      throw thrown
    }
  }

const MOST_AT_ONCE = 4
const MOST_ON_SHEET = 24
const PICTURES = /^image\//

/** True for pictures that every browser shows as they are. */
export const shownByBrowsers = (place: string): boolean => /\.(jpe?g|png|gif|webp)$/i.test(place)

/** Where the small pictures of a package lie, by the pictures they are made of. Places count from the package's top. */
export class PreviewPlaces {
  readonly #present: Set<string>

  constructor(paths: Iterable<string>) {
    this.#present = new Set([...paths].filter((path) => path.startsWith(`data/${SITE}/previews/`)))
  }

  tile(place: string): string | undefined {
    return this.#find(place, 'tile')
  }

  large(place: string): string | undefined {
    return this.#find(place, 'large')
  }

  #find(place: string, size: keyof typeof PREVIEW_EDGES): string | undefined {
    const path = `data/${previewPlace(place, size)}`
    return this.#present.has(path) ? path : undefined
  }
}

/** Of a picture's place; folders of two digits keep each of them small, as FAT wants it. */
function previewPlace(place: string, size: keyof typeof PREVIEW_EDGES): string {
  const name = digest('sha256', place).slice(0, 16)
  return `${SITE}/previews/${name.slice(0, 2)}/${name}${size === 'large' ? '-large' : ''}.jpg`
}

/** Makes the small pictures of a package while its files are written, a few at a time. */
export class Previews {
  readonly #onTheWay = new Set<Promise<void>>()
  readonly #asked: Set<string>
  readonly #earlier: ReadonlySet<string>
  #failure: unknown
  /** The first pictures, for the report. */
  readonly #lost: { place: string; alt: string }[] = []
  readonly #kept: { place: string; alt: string }[] = []

  /** `make` absent: none are made. */
  constructor(
    readonly bag: BagWriter,
    readonly make: MakePreview | undefined,
  ) {
    this.#earlier = new Set(bag.earlier.map(({ path }) => path))
    this.#asked = new Set(this.#earlier)
  }

  /** Asks for the small pictures of a file that lies in the package; waits only where many are on their way. */
  async of(place: string, item: Pick<HandoverItem, 'sighting' | 'standing'>): Promise<void> {
    if (!this.make || !PICTURES.test(mimeOf(place))) return
    this.mayShow(place, item)
    const tile = previewPlace(place, 'tile')
    if (this.#asked.has(`data/${tile}`)) return
    this.#asked.add(`data/${tile}`)
    while (this.#onTheWay.size >= MOST_AT_ONCE) await Promise.race(this.#onTheWay)
    const way = this.#makeOf(place, tile).finally(() => this.#onTheWay.delete(way))
    this.#onTheWay.add(way)
  }

  /** Waits until none is on its way: what is given up must not be written to any more. */
  async end(): Promise<void> {
    await Promise.all(this.#onTheWay)
  }

  /** Waits for all of them. @returns those for the report, lost ones first. @throws what kept one from being written */
  async sheet(): Promise<SheetPicture[]> {
    await this.end()
    if (this.#failure !== undefined) throw this.#failure
    const pictures: SheetPicture[] = []
    for (const { place, alt } of [...this.#lost, ...this.#kept]) {
      const preview = previewPlace(place, 'tile')
      const folder = this.#earlier.has(`${PAYLOAD}/${preview}`) ? this.bag.destination : this.bag.staging
      const bytes = await readFile(join(folder, PAYLOAD, preview)).catch(() => undefined)
      if (bytes && pictures.length < MOST_ON_SHEET) pictures.push({ bytes, alt, place: preview })
    }
    return pictures
  }

  /** Takes note of a picture for the report, which shows the first of them. */
  mayShow(place: string, { sighting, standing }: Pick<HandoverItem, 'sighting' | 'standing'>): void {
    if (sighting.category !== 'photos') return
    const list = LOST_STANDINGS.includes(standing) ? this.#lost : this.#kept
    if (list.length < MOST_ON_SHEET) list.push({ place, alt: `${sighting.title}, ${standing}` })
  }

  /** What browsers do not show costs most to decode: it is decoded once, and the tile is made of what came of it. */
  async #makeOf(place: string, tile: string): Promise<void> {
    let path = join(this.#earlier.has(place) ? this.bag.destination : this.bag.staging, place)
    try {
      if (!shownByBrowsers(place)) {
        const large = previewPlace(place, 'large')
        if (!(await this.#write(path, large, PREVIEW_EDGES.large))) return
        path = join(this.bag.staging, PAYLOAD, large)
      }
      await this.#write(path, tile, PREVIEW_EDGES.tile)
    } catch (thrown) {
      this.#failure ??= thrown
    }
  }

  /** @returns false where the picture cannot be shown */
  async #write(path: string, target: string, edge: number): Promise<boolean> {
    const picture = await this.make?.(path, edge)
    if (!picture) return false
    await this.bag.write(target, picture)
    return true
  }
}
