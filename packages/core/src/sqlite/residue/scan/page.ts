import type { Table } from '../../database.js'
import type { Place } from '../../values.js'
import { type Candidate, type Format, LOST_TOO, withProfiles } from '../evidence/candidate.js'
import { areForeign } from '../evidence/foreign-cells.js'
import type { Profile } from '../evidence/profile.js'
import { isUnknown } from '../evidence/unknown.js'
import { leftoversOf, type PageImage } from './images.js'
import { mostFrequent, namedCells } from './named-cells.js'
import type { CellKind, Region } from './region.js'
import { cellsOf } from './schedule.js'

/** A candidate with what its page says of it. */
export interface Located {
  candidate: Candidate
  image: PageImage
  kind: Place['kind']
  /** Undefined: more than one table fits as well. */
  table: Candidate['fits'][number]['profile'] | undefined
}

/** Every leftover record of one page image, each attributed to a table where that is certain. */
export function recordsOfPage(image: PageImage, format: Format): Located[] {
  const leftovers = leftoversOf(image, format)
  const { regions, kind } = leftovers
  const { named, taught } = namedCells(image, leftovers, format)
  const all: { candidate: Candidate; kind: Place['kind'] }[] = named.map((candidate) => ({ candidate, kind }))
  const table = mostFrequent(named.flatMap(({ fits }) => fits[0]?.profile.table ?? []))
  // Cells that a page's pointers name tell of which kind its others are, and by which table what is cut can be read.
  const kindred: Partial<Region> = table ? { kinds: [table.withoutRowid ? 'without-rowid' : 'table'] } : {}
  const own = table ? taught.own.filter(isOf(table)) : taught.own
  const general = { ...taught, own }
  // What is freed on a page of a table was a row of that table; the gap may hold what was there before.
  const { owner } = image
  const ofOwner = image.shown && owner ? withProfiles(general, (profiles) => profiles.filter(isOf(owner))) : general
  for (const region of named.length === 0 ? regions : regions.flatMap((one) => between({ ...one, ...kindred }, named)))
    for (const candidate of cellsIn(image.bytes, region, region.space === 'freeblock' ? ofOwner : general).filter(
      isTellable,
    ))
      all.push({ candidate, kind: region.space === 'freeblock' ? 'freeblock' : kind })
  if (all.length === 0) return []
  const found = withoutForeign(image, all)
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
    if (table && isUnknown(table.table))
      return { candidate: { ...candidate, fits: [] }, image, kind: 'dropped', table: undefined }
    return { candidate, image, kind: table?.dropped || candidate.fits.length === 0 ? 'dropped' : place, table }
  })
}

/** The fits without those to tables that the page's cells are not of, whatever their types. */
function withoutForeign<T extends { candidate: Candidate }>({ bytes, owner, shown }: PageImage, found: T[]): T[] {
  const byBest = new Map<Profile, Candidate[]>()
  for (const { candidate } of found) {
    const best = candidate.fits[0]?.profile
    if (!best || (shown && best.table === owner)) continue
    const cells = byBest.get(best)
    if (cells) cells.push(candidate)
    else byBest.set(best, [candidate])
  }
  const strange = new Set([...byBest].flatMap(([best, cells]) => (areForeign(bytes, cells, best) ? [best] : [])))
  if (strange.size === 0) return found
  return found.map((one) => {
    const fits = one.candidate.fits.filter(({ profile }) => !strange.has(profile))
    return { ...one, candidate: { ...one.candidate, fits } }
  })
}

/** Rows of a table, with the columns of today or of before. */
const isOf = (table: Table) => (profile: Profile) => (profile.table.now ?? profile.table) === (table.now ?? table)

/** The cells of a region: of a page whose kind is not known, those for which there is more evidence. */
function cellsIn(bytes: Uint8Array, region: Region, format: Format): Candidate[] {
  const { kinds, ...part } = region
  const cellsOfKind = (kind: CellKind) => cellsOf({ ...part, bytes, kind, format })
  const [first, ...others] = kinds
  const worth = format.profiles.some(({ table }) => table.withoutRowid) ? others : []
  return worth
    .map(cellsOfKind)
    .reduce((best, cells) => (bitsOf(cells) > bitsOf(best) ? cells : best), cellsOfKind(first))
}

/** With two serial types lost, and nothing that says where the first value ends, not even the rest is sure enough. */
const isTellable = ({ types }: Candidate) => !types.includes(LOST_TOO)

const bitsOf = (cells: readonly Candidate[]) => cells.reduce((sum, { bits }) => sum + bits, 0)

/** What of a region no cell takes up. */
function between(region: Region, cells: readonly Candidate[]): Region[] {
  const inside = cells
    .filter((cell) => cell.start < region.end && cell.end > region.start)
    .sort((a, b) => a.start - b.start)
  const free: Region[] = []
  const beginsAtCell = (at: number) => region.beginsAtCell || at > region.start
  let start = region.start
  for (const cell of inside) {
    if (cell.start > start) free.push({ ...region, start, end: cell.start, beginsAtCell: beginsAtCell(start) })
    start = Math.max(start, cell.end)
  }
  if (start < region.end) free.push({ ...region, start, beginsAtCell: beginsAtCell(start) })
  return free
}

function nearBest({ fits }: Candidate, within: number) {
  const best = fits[0]?.bits ?? 0
  return fits.filter((fit) => fit.bits >= best - within).map((fit) => fit.profile)
}
