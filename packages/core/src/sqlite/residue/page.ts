import type { Place } from '../values.js'
import { type Candidate, type Format, LOST_TOO } from './candidate.js'
import { wholeCell } from './hypotheses.js'
import { leftoversOf, type PageImage } from './images.js'
import { CLASS, classOf } from './profile.js'
import type { Region } from './region.js'
import { settleRegion } from './settle.js'

/** A candidate with what its page says of it. */
export interface Located {
  candidate: Candidate
  image: PageImage
  kind: Place['kind']
  /** Undefined: more than one table fits as well. */
  table: Candidate['fits'][number]['profile'] | undefined
}

/** Pointers of a page that was given up are as good as those of a live one. */
const POINTER_BITS = 24

/** Every leftover record of one page image, each attributed to a table where that can be told. */
export function recordsOfPage(image: PageImage, format: Format): Located[] {
  const { pointers, regions, keyed, kind } = leftoversOf(image, format.usableSize)
  const named = pointers.length === 0 ? [] : pointedCells(image, pointers, keyed, format)
  const found: { candidate: Candidate; kind: Place['kind'] }[] = named.map((candidate) => ({ candidate, kind }))
  for (const region of named.length === 0 ? regions : regions.flatMap((one) => between(one, named)))
    for (const candidate of cellsIn(image.bytes, region, format).filter(isTellable))
      found.push({ candidate, kind: region.freeblock ? 'freeblock' : kind })
  if (found.length === 0) return []
  const ambiguous = 2
  const tables = found.map(({ candidate }) => nearBest(candidate, ambiguous))
  const neighbour = mostFrequent(tables.flatMap((fits) => (fits.length === 1 ? fits : [])))
  return found.map(({ candidate, kind: place }, i) => {
    const fits = tables[i] as Candidate['fits'][number]['profile'][]
    const table =
      fits.length === 1
        ? fits[0]
        : (fits.find((profile) => profile.table === image.owner && image.shown) ??
          fits.find((profile) => profile === neighbour))
    return { candidate, image, kind: table?.dropped || candidate.fits.length === 0 ? 'dropped' : place, table }
  })
}

/**
 * The cells that a given-up page's pointers name. Where each of them is whole, but fits no table that is known, the page
 * belonged to a table that was dropped; one of an index tree only if its cells are no entries of an index.
 */
function pointedCells(image: PageImage, pointers: readonly number[], keyed: boolean, format: Format): Candidate[] {
  const rows = image.owner?.withoutRowid === true
  const region = { start: 0, end: format.usableSize, freeblock: false, keyed, rows }
  const cells = pointers.map((at) => wholeCell(image.bytes, at, region, format, true))
  const ofDropped = cells.every((cell) => cell && !cell.cut) && !(keyed && mayBeIndex(cells))
  return cells.flatMap((cell) => {
    if (!cell || cell.cut || (cell.fits.length === 0 && !ofDropped)) return []
    return [{ ...cell, bits: cell.bits + POINTER_BITS, intact: true }]
  })
}

/** The entries of an index are all of one length and end with the rowid of what they stand for, a whole number. */
function mayBeIndex(cells: readonly (Candidate | undefined)[]): boolean {
  return cells.every((cell) => cell && classOf(cell.types.at(-1) as number) === CLASS.integer)
}

/** The cells of a region: of a page whose kind is not known, those for which there is more evidence. */
function cellsIn(bytes: Uint8Array, region: Region, format: Format): Candidate[] {
  const cells = settleRegion(bytes, region, format)
  if (!region.either || !format.profiles.some(({ table }) => table.withoutRowid)) return cells
  const keyed = settleRegion(bytes, { ...region, keyed: true }, format)
  return bitsOf(keyed) > bitsOf(cells) ? keyed : cells
}

/** With two types lost and nothing to tell their values apart, not even the rest is sure enough to be told. */
const isTellable = ({ types }: Candidate) => !types.includes(LOST_TOO)

const bitsOf = (cells: readonly Candidate[]) => cells.reduce((sum, { bits }) => sum + bits, 0)

/** What of a region no cell takes up. */
function between(region: Region, cells: readonly Candidate[]): Region[] {
  const inside = cells
    .filter((cell) => cell.start < region.end && cell.end > region.start)
    .sort((a, b) => a.start - b.start)
  const free: Region[] = []
  let start = region.start
  for (const cell of inside) {
    if (cell.start > start) free.push({ ...region, start, end: cell.start })
    start = Math.max(start, cell.end)
  }
  if (start < region.end) free.push({ ...region, start })
  return free
}

function nearBest({ fits }: Candidate, within: number) {
  const best = fits[0]?.bits ?? 0
  return fits.filter((fit) => fit.bits >= best - within).map((fit) => fit.profile)
}

function mostFrequent<T>(list: readonly T[]): T | undefined {
  const counts = new Map<T, number>()
  for (const one of list) counts.set(one, (counts.get(one) ?? 0) + 1)
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0]
}
