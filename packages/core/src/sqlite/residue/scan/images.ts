import type { ByteSource } from '../../../io/source.js'
import { PAGE_TYPE, parseBtreePage } from '../../btree.js'
import { type Catalogue, isPointerMap, USE } from '../../catalogue.js'
import type { Database, Table } from '../../database.js'
import type { RollbackJournal } from '../../journal.js'
import type { Place } from '../../values.js'
import { endsVarint } from '../../varint.js'
import { type Frame, readFrame, type WriteAheadLog } from '../../wal.js'
import type { Format } from '../evidence/candidate.js'
import { type CellKind, isIndexCell, type Region } from './region.js'

/** A page's bytes as they stand, or stood, somewhere. */
export interface PageImage {
  page: number
  bytes: Uint8Array
  /** Byte offset of the image in the file that holds it. */
  offset: number
  /** `shown`: the database shows its cells, so that only the space between them holds leftovers. */
  shown: boolean
  use: number
  /** Table whose tree the page belongs to now. */
  owner: Table | undefined
  /** It belongs to the tree of an index now. */
  ofIndex: boolean
  file: 'database' | 'wal' | 'journal'
  /** Of a log's image: another page as it stood at the same time; undefined: the log does not say. */
  companion?: (page: number) => Uint8Array | undefined
}

/** The files that hold page images beside the database itself. */
export interface Siblings {
  wal?: { source: ByteSource; log: WriteAheadLog } | undefined
  journal?: { source: ByteSource; log: RollbackJournal } | undefined
}

/** Every image there is of all pages, or of those with the given numbers: first of the database, then of its logs. */
export function* pageImages(
  database: Database,
  catalogue: Catalogue,
  siblings: Siblings,
  only?: ReadonlySet<number>,
): Generator<PageImage> {
  const { pager } = database
  for (let page = 1; page <= pager.pageCount; page++) {
    if (only && !only.has(page)) continue
    const image = pageImageOf(database, catalogue, page)
    if (image) yield image
  }
  for (const image of hiddenPages(database, catalogue, only)) yield image
  for (const image of logPages(database, catalogue, siblings)) if (!only || only.has(image.page)) yield image
}

/** A page as the database shows it. Undefined: there is none of this number. */
export function pageImageOf({ pager }: Database, catalogue: Catalogue, page: number): PageImage | undefined {
  const bytes = pager.tryPage(page)
  if (!bytes) return undefined
  const { use, owner, ofIndex } = imageOf(catalogue, page, bytes)
  // Written out: of each page of the file there is one.
  return {
    page,
    bytes,
    use,
    owner,
    ofIndex,
    offset: pager.offsetOf(page),
    shown: isShown(catalogue, page),
    file: 'database',
  }
}

/** The image of a page that the database does not show, by a byte of the file that it lies in. */
export function hiddenImageAt(
  database: Database,
  catalogue: Catalogue,
  siblings: Siblings,
  file: PageImage['file'],
  offset: number,
): PageImage | undefined {
  const images = file === 'database' ? hiddenPages(database, catalogue) : logPages(database, catalogue, siblings)
  for (const image of images)
    if (image.file === file && image.offset <= offset && offset < image.offset + database.pager.pageSize) return image
  return undefined
}

function imageOf(catalogue: Catalogue, page: number, bytes: Uint8Array) {
  const tree = catalogue.trees[catalogue.owner[page] ?? -1]
  const owner = tree?.table
  return { page, bytes, use: catalogue.use[page] ?? USE.unknown, owner, ofIndex: tree !== undefined && !owner }
}

function isShown(catalogue: Catalogue, page: number): boolean {
  const use = catalogue.use[page] as number
  return use !== USE.unknown && use !== USE.freeLeaf && use !== USE.freeTrunk
}

/** Pages of the file that a log's newer image stands for, or that lie behind the database's end. */
function* hiddenPages({ pager }: Database, catalogue: Catalogue, only?: ReadonlySet<number>): Generator<PageImage> {
  const inFile = Math.floor(pager.source.size / pager.pageSize)
  for (let page = 1; page <= inFile; page++) {
    if ((only && !only.has(page)) || (page <= pager.pageCount && !pager.overlay?.images.has(page))) continue
    if (isPointerMap(pager.header, page)) continue
    const offset = (page - 1) * pager.pageSize
    const bytes = pager.source.readSync(offset, offset + pager.pageSize)
    yield { ...imageOf(catalogue, page, bytes), use: USE.unknown, offset, shown: false, file: 'database' }
  }
}

function* logPages({ pager }: Database, catalogue: Catalogue, { wal, journal }: Siblings): Generator<PageImage> {
  const shownAt = (source: ByteSource, page: number, offset: number) => {
    const image = pager.overlay?.images.get(page)
    // The log may name pages behind the end that its last commit set.
    return page <= pager.pageCount && image?.source === source && image.offset === offset
  }
  const framesOf = new Map<number, Frame[]>()
  for (const frame of wal?.log.frames ?? []) {
    const known = framesOf.get(frame.page)
    if (known) known.push(frame)
    else framesOf.set(frame.page, [frame])
  }
  for (const frame of wal?.log.frames ?? []) {
    // What the database shows of the log was looked at as a page of the database.
    if (!wal || isPointerMap(pager.header, frame.page) || shownAt(wal.source, frame.page, frame.offset)) continue
    const bytes = readFrame(wal.source, frame, pager.pageSize)
    const companion = (page: number) => {
      const then = framesOf.get(page)?.findLast((one) => one.age === 'current' && one.transaction <= frame.transaction)
      return then && frame.age === 'current' ? readFrame(wal.source, then, pager.pageSize) : undefined
    }
    yield {
      ...imageOf(catalogue, frame.page, bytes),
      use: USE.unknown,
      offset: frame.offset,
      shown: false,
      file: 'wal',
      companion,
    }
  }
  const offsets = new Map(journal?.log.pages.map(({ page, offset }) => [page, offset]))
  for (const record of journal?.log.pages ?? []) {
    if (!journal || isPointerMap(pager.header, record.page)) continue
    if (shownAt(journal.source, record.page, record.offset)) continue
    const read = (offset: number) => journal.source.readSync(offset, offset + pager.pageSize)
    const companion = (page: number) => {
      const offset = offsets.get(page)
      return offset === undefined ? undefined : read(offset)
    }
    yield {
      ...imageOf(catalogue, record.page, read(record.offset)),
      use: USE.unknown,
      offset: record.offset,
      shown: false,
      file: 'journal',
      companion,
    }
  }
}

/** Where leftovers lie in an image: cells that its pointers still name, and bytes that belong to no cell. */
export interface Leftovers {
  pointers: number[]
  /** Pointers whose count was overwritten: how many of the first ones were valid is not known. */
  former: number[]
  regions: Region[]
  /** Of the cells that the pointers name. */
  cells: CellKind
  kind: Place['kind']
}

const NO_POINTERS: number[] = []
// SQLite gives no cell fewer bytes.
const LEAST_CELL = 4

// The byte that says of which kind a page is was overwritten.
const ANY_SPACE = { space: 'unallocated', beginsAtCell: false } as const
const OF_EITHER_TREE = { ...ANY_SPACE, kinds: ['table', 'index'] } as const

const NOTHING: Leftovers = { pointers: [], former: [], regions: [], cells: 'table', kind: 'other' }

type PageBounds = Pick<Format, 'usableSize' | 'pageCount'>

/** Plans what to look at in an image; decides only, and reads no cell. */
export function leftoversOf(image: PageImage, { usableSize, pageCount }: PageBounds): Leftovers {
  const { page, bytes, use } = image
  if (use === USE.overflow || use === USE.pointerMap || use === USE.lockByte) return NOTHING
  const kind = kindOf(image)
  const parsed = use === USE.freeTrunk ? undefined : parseBtreePage(page, bytes, usableSize)
  if (!parsed) {
    if (image.shown) return NOTHING
    // In a log nothing says which pages were trunks at that time.
    const start = trunkEnd(bytes, usableSize)
    const former = formerPointers(bytes, start, usableSize)
    const end = beforeSteps(bytes, start, usableSize, pageCount)
    return { pointers: [], former, regions: [{ ...OF_EITHER_TREE, start, end }], cells: 'table', kind }
  }
  const index = parsed.type === PAGE_TYPE.leafIndex || parsed.type === PAGE_TYPE.interiorIndex
  // A page without an owner may have been of any tree: entries of an index do not fit a table's rows without rowid.
  const withoutRowid = image.owner?.withoutRowid === true
  const ofIndex = withoutRowid ? 'without-rowid' : 'index'
  // Of an index, the page held its entries at other times too. The counters of SQLite's own table look like a short row of
  // any other one.
  const wholeOnly =
    (index && (image.shown || image.ofIndex) && !withoutRowid) ||
    (image.shown && image.owner?.name === 'sqlite_sequence')
  const cells: CellKind = wholeOnly ? 'whole-table' : index ? ofIndex : 'table'
  // The cells of such a page lead to others, and hold no row.
  const interior = parsed.type === PAGE_TYPE.interiorTable
  const start = parsed.pointersEnd
  const contentStart = Math.min(parsed.contentStart, usableSize)
  // A page that was emptied may have been one of them too.
  const mayHoldSteps = interior || parsed.cells.length === 0
  const end = mayHoldSteps ? beforeSteps(bytes, start, contentStart, pageCount) : contentStart
  // A page is emptied by setting its count to zero; its pointers stay.
  const former = parsed.cells.length === 0 ? pointersOfEmptied(bytes, start, usableSize) : NO_POINTERS
  // What lies there from before may have been of a tree of the other kind.
  const kinds: Region['kinds'] = image.shown && !wholeOnly ? ['table', ofIndex] : [cells]
  const gap: Region = { ...ANY_SPACE, start, end, kinds }
  if (image.shown || interior || wholeOnly) {
    // What was freed on a page of a tree was of that tree: an entry of an index, a step to another page.
    const ofRows = !wholeOnly && !interior
    const regions = ofRows ? freeblocks(bytes, parsed.firstFreeblock, usableSize, cells) : []
    if (gap.end - gap.start >= LEAST_CELL) regions.push(gap)
    // Those of a tree of rows without rowid may name steps to other pages, which look like short rows.
    return { pointers: NO_POINTERS, former: ofRows && !isIndexCell(cells) ? former : NO_POINTERS, regions, cells, kind }
  }
  // Rows without rowid stand on interior pages too, each behind the number of a page.
  const pointers = parsed.type === PAGE_TYPE.interiorIndex ? parsed.cells.map((at) => at + 4) : parsed.cells
  // What lies between the cells is found once the cells are known.
  const last = former.length > 0 ? beforeSteps(bytes, start, usableSize, pageCount) : usableSize
  return { pointers, former, regions: [{ ...gap, end: last }], cells, kind }
}

// The number of a page, and a rowid of at most four bytes.
const LONGEST_STEP = 8
// Of several that were freed together.
const LONGEST_FREED = 40

/**
 * Where the cells of an interior page begin that end at `end`: a page that grew into one keeps its rows below them, and
 * the last bytes of some are theirs. Some may be freed: the head of a freeblock lies over the number of the page.
 */
function beforeSteps(bytes: Uint8Array, start: number, end: number, pageCount: number): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  let at = end
  for (let size = 5; size <= LONGEST_FREED && at - size >= start; size++) {
    const child = view.getUint32(at - size)
    const leads =
      size <= LONGEST_STEP && child > 1 && child <= pageCount && endsVarint(bytes, at - size + 4, at, size - 4)
    if (!leads && view.getUint16(at - size + 2) !== size) continue
    at -= size
    size = 4
  }
  return at
}

// A file of so many pages of the smallest size is larger than these devices.
const isPageNumber = (number: number) => number > 1 && number < 2 ** 28

/** Where the list of a freelist's trunk ends; of a page that is none: behind the bytes that say so. */
function trunkEnd(bytes: Uint8Array, usableSize: number): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const end = 8 + 4 * view.getUint32(4)
  if (end > usableSize) return 8
  for (let at = 8; at < end; at += 4) if (!isPageNumber(view.getUint32(at))) return 8
  return end
}

/** The pointers of a page without cells; where it led to others before, they stand behind the number of the last one. */
function pointersOfEmptied(bytes: Uint8Array, start: number, usableSize: number): number[] {
  const pointers = formerPointers(bytes, start, usableSize)
  return pointers.length > 0 ? pointers : formerPointers(bytes, start + 4, usableSize)
}

/** Cell pointers from `start` on, as far as they lie between their own end and the page's. */
function formerPointers(bytes: Uint8Array, start: number, usableSize: number): number[] {
  const pointers: number[] = []
  for (let at = start; at + 2 <= usableSize; at += 2) {
    const pointer = ((bytes[at] as number) << 8) | (bytes[at + 1] as number)
    if (pointer < at + 2 || pointer > usableSize - LEAST_CELL) break
    pointers.push(pointer)
  }
  return pointers
}

function kindOf({ file, use, shown }: PageImage): Place['kind'] {
  if (file !== 'database') return file
  if (use === USE.freeLeaf || use === USE.freeTrunk) return 'freelist'
  return shown ? 'gap' : 'other'
}

function freeblocks(bytes: Uint8Array, first: number, usableSize: number, kind: CellKind): Region[] {
  const blocks: Region[] = []
  // Blocks stand in the order of their offsets; one that points back would never end.
  for (let at = first, last = 0; at > last && at + 4 <= usableSize; ) {
    const next = ((bytes[at] as number) << 8) | (bytes[at + 1] as number)
    const size = ((bytes[at + 2] as number) << 8) | (bytes[at + 3] as number)
    if (size < 4 || at + size > usableSize) break
    blocks.push({ start: at, end: at + size, space: 'freeblock', beginsAtCell: true, kinds: [kind] })
    last = at
    at = next
  }
  return blocks
}
