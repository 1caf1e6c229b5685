import type { Place } from '../values.js'
import type { Candidate, Format } from './candidate.js'
import { wholeCell } from './hypotheses.js'
import { leftoversOf, type PageImage } from './images.js'
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
    for (const candidate of settleRegion(image.bytes, region, format))
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
 * belonged to a table that was dropped.
 */
function pointedCells(image: PageImage, pointers: readonly number[], keyed: boolean, format: Format): Candidate[] {
  const region = { start: 0, end: format.usableSize, freeblock: false, keyed }
  const cells = pointers.map((at) => wholeCell(image.bytes, at, region, format, !keyed))
  // Entries of an ordinary index look like short rows of a table without rowids: only full ones count.
  const strange = keyed && image.owner?.withoutRowid !== true
  const consistent = cells.every((cell) => cell && !cell.cut)
  return cells.flatMap((cell) => {
    if (!cell || cell.cut) return []
    const fits = strange ? cell.fits.filter((fit) => fit.profile.columns === cell.types.length) : cell.fits
    if (fits.length === 0 && (keyed || !consistent)) return []
    return [{ ...cell, fits, bits: cell.bits + POINTER_BITS, intact: true }]
  })
}

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
