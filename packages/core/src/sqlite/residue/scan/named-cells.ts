import { type BtreePage, PAGE_TYPE } from '../../btree.js'
import { type Candidate, type Format, withProfiles } from '../evidence/candidate.js'
import { CLASS, classOf, type Profile, ProfileFit, profileOf } from '../evidence/profile.js'
import { unknownTable } from '../evidence/unknown.js'
import { WEIGHTS } from '../evidence/weights.js'
import type { Leftovers, PageImage } from './images.js'
import { type CellKind, isIndexCell, pageSearch, type Search } from './region.js'
import { wholeCell } from './whole-cell.js'

/** The cells that the pointer array of a freelist page still names, and the format with what they teach of a dropped table. */
export function namedCells(
  image: PageImage,
  leftovers: Leftovers,
  format: Format,
): { named: Candidate[]; taught: Format } {
  const named = cellsNamed(image, leftovers, format)
  if (named.length === 0) return { named, taught: format }
  const table = mostFrequent(named.flatMap(({ fits }) => fits[0]?.profile ?? []))
  const taught = table ? trainedFormat(image, named, table, format) : withUnknown(image, named, leftovers.cells, format)
  // What the page teaches speaks for its own cells too.
  return { named: taught === format ? named : cellsNamed(image, leftovers, taught), taught }
}

function cellsNamed(image: PageImage, leftovers: Leftovers, format: Format): Candidate[] {
  const { pointers, cells } = leftovers
  return pointers.length > 0 ? pointedCells(image, pointers, cells, format) : formerCells(image, leftovers, format)
}

/** No live row says what is usual in an emptied or dropped table; the cells that are named on its own page do. */
function trainedFormat(
  { page, bytes }: PageImage,
  named: readonly Candidate[],
  table: Profile,
  format: Format,
): Format {
  if (table.fitted) return format
  const fit = new ProfileFit(table)
  fit.see(pageOf(page, bytes, named, table), format.usableSize)
  const taught = fit.profile()
  return taught === table ? format : withProfiles(format, (all) => all.map((one) => (one === table ? taught : one)))
}

/** Of a dropped table that is not known at all, its own cells tell what others on their page look like. */
function withUnknown({ page, bytes }: PageImage, named: readonly Candidate[], kind: CellKind, format: Format): Format {
  const count = mostFrequent(named.map(({ types }) => types.length)) ?? 0
  const alike = named.filter(({ types }) => types.length === count)
  const profile = profileOf(unknownTable(count, isIndexCell(kind)), true)
  const fit = new ProfileFit({ ...profile, leastColumns: count })
  fit.see(pageOf(page, bytes, alike, profile), format.usableSize)
  const taught = { ...fit.profile(), leastColumns: count }
  return taught.fitted ? withProfiles(format, (all) => [...all, taught]) : format
}

/** A page that holds just these cells. */
export function pageOf(number: number, bytes: Uint8Array, named: readonly Candidate[], { table }: Profile): BtreePage {
  const type = table.withoutRowid ? PAGE_TYPE.leafIndex : PAGE_TYPE.leafTable
  const cells = named.map(({ start }) => start)
  return { number, bytes, type, cells, firstFreeblock: 0, contentStart: 0, pointersEnd: 0, rightChild: 0 }
}

/**
 * The cells that the pointer array of a freelist page names. Where each of them is whole, but fits no table that is known, the page
 * belonged to a table that was dropped; one of an index tree only if its cells are no entries of an index.
 */
function pointedCells(image: PageImage, pointers: readonly number[], kind: CellKind, format: Format): Candidate[] {
  const known = kind === 'index' && image.owner?.withoutRowid === true ? 'without-rowid' : kind
  const search = pageSearch(image.bytes, format.usableSize, known, format)
  const cells = pointers.map((at) => wholeCell(search, at, true))
  const ofDropped = cells.every((cell) => cell && !cell.cut) && !(isIndexCell(kind) && mayBeIndex(cells))
  return cells.flatMap((cell) => {
    if (!cell || cell.cut || (cell.fits.length === 0 && !ofDropped)) return []
    return [{ ...cell, bits: cell.bits + WEIGHTS.pointer, intact: true }]
  })
}

// A page's own content may look like a pointer or two to what looks like a cell.
const LEAST_FORMER = 4

// Where many pointers name nothing, those that name something may do so by chance.
const LEAST_SHARE = 0.2

/**
 * The cells of a page whose count of pointers was overwritten. Up to the first that names no whole cell, or bytes of
 * another's, pointers are as good as they were; those behind may be older, or their cells may have been freed.
 */
function formerCells(image: PageImage, { former, regions, cells: usual }: Leftovers, format: Format): Candidate[] {
  if (former.length < LEAST_FORMER) return []
  const kinds: readonly CellKind[] = regions.find((region) => region.kinds.length > 1)?.kinds ?? [usual]
  const end = Math.max(...regions.map((region) => region.end))
  const [best = []] = kinds
    .map((kind) => {
      const { pointers, sure } = wholeNamed(
        former,
        pageSearch(image.bytes, end, isIndexCell(kind) ? 'index' : kind, format),
      )
      const cells = pointedCells(image, pointers, kind, format)
      return cells.map((cell) =>
        sure.has(cell.start) ? cell : { ...cell, bits: cell.bits + WEIGHTS.formerPointer, intact: false },
      )
    })
    .sort((a, b) => b.length - a.length)
  return best.length < Math.max(LEAST_FORMER, former.length * LEAST_SHARE) ? [] : best
}

/** The pointers that name whole cells, none over another, and where the cells of the first ones begin. */
function wholeNamed(former: readonly number[], search: Search) {
  const taken = new Uint8Array(search.format.usableSize)
  const pointers: number[] = []
  const sure = new Set<number>()
  for (const at of former) {
    const cell = wholeCell(search, at, true)
    if (!cell || cell.cut || taken.subarray(cell.start, cell.end).includes(1)) continue
    taken.fill(1, cell.start, cell.end)
    if (sure.size === pointers.length && former[sure.size] === at) sure.add(at)
    pointers.push(at)
  }
  return { pointers, sure }
}

/** The entries of an index are all of one length and end with the rowid of what they stand for, a whole number. */
function mayBeIndex(cells: readonly (Candidate | undefined)[]): boolean {
  return cells.every((cell) => cell && classOf(cell.types.at(-1) as number) === CLASS.integer)
}

/** The one that occurs most often; undefined: there is none. */
export function mostFrequent<T>(list: readonly T[]): T | undefined {
  const counts = new Map<T, number>()
  for (const one of list) counts.set(one, (counts.get(one) ?? 0) + 1)
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0]
}
