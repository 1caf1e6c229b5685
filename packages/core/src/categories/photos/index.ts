import type { SourceEntry, SourceTree } from '../../backup/types.js'
import { fromCocoa } from '../../io/time.js'
import { type PictureMetadata, readPictureMetadata } from '../../media/exif.js'
import { mimeOf } from '../../media/kinds.js'
import { rebuildRows } from '../../sqlite/residue/rebuild.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'
import { daysLeft } from '../bin.js'
import { type OpenStore, openStore, originOf } from '../open.js'
import type { Category, Condition, ContentRef, ReadContext, Sighting } from '../types.js'
import { LibraryContext } from './library.js'

const DOMAIN = 'CameraRollDomain'
const PLACES = [{ domain: DOMAIN, path: 'Media/PhotoData/Photos.sqlite' }]
const ASSET_TABLES = ['ZASSET', 'ZGENERICASSET']

/** Pictures of the photo library and of the camera's folders. */
export const photos: Category = {
  id: 'photos',
  label: 'Photos',
  preview: 'picture',
  formats: ['original'],
  stores: PLACES,
  holds: (entry) => entry.domain === DOMAIN,
  read: readPhotos,
  // The library's own id; a file that the library does not know is told by its place.
  identity: ({ fields, origin }) =>
    typeof fields.uuid === 'string' ? `uuid:${fields.uuid}` : `file:${fields.path ?? origin.path}`,
}

async function* readPhotos(context: ReadContext): AsyncGenerator<Sighting> {
  const store = await openStore(context.tree, PLACES, context.report)
  try {
    yield* context.pass === 'live' ? livePhotos(context, store) : rebuiltPhotos(context, store)
  } finally {
    await store?.close()
  }
}

async function* livePhotos(context: ReadContext, store: OpenStore | undefined): AsyncGenerator<Sighting> {
  const listed = new Set<string>()
  if (store) {
    const mapper = new AssetMapper(context.tree, store, await LibraryContext.load(store.database))
    for (const table of ASSET_TABLES)
      for (const row of store.database.rows(table)) {
        listed.add(pathOf(row) ?? '')
        if (isPicture(row)) yield await mapper.sighting(row)
      }
  }
  for (const entry of context.tree.entries())
    if (isCameraPicture(entry) && !listed.has(entry.path)) yield fileSighting(context.tree, entry)
}

async function* rebuiltPhotos(context: ReadContext, store: OpenStore | undefined): AsyncGenerator<Sighting> {
  if (!store) return
  const mapper = new AssetMapper(context.tree, store, await LibraryContext.load(store.database))
  for (const row of rebuildRows(store))
    if (ASSET_TABLES.includes(row.table ?? '') && row.standing === 'deleted' && isPicture(row))
      yield await mapper.sighting(row)
}

const isPicture = (row: Row) => (numberValue(row.values.ZKIND) ?? 0) === 0

const isCameraPicture = (entry: SourceEntry) =>
  entry.kind === 'file' &&
  entry.domain === DOMAIN &&
  entry.path.startsWith('Media/DCIM/') &&
  mimeOf(entry.path).startsWith('image/')

function pathOf(row: Row): string | null {
  const folder = textValue(row.values.ZDIRECTORY)
  const name = textValue(row.values.ZFILENAME)
  return folder && name ? `Media/${folder}/${name}` : null
}

class AssetMapper {
  constructor(
    readonly tree: SourceTree,
    readonly store: OpenStore,
    readonly library: LibraryContext,
  ) {}

  async sighting(row: Row): Promise<Sighting> {
    const { values } = row
    const path = pathOf(row)
    const id = numberValue(row.rowid)
    const extra = this.library.attributes(id)
    const originalName = textValue(extra.ZORIGINALFILENAME)
    const fileName = textValue(values.ZFILENAME)
    const trashed = (numberValue(values.ZTRASHEDSTATE) ?? 0) !== 0
    const binnedAt = trashed ? fromCocoa(values.ZTRASHEDDATE) : null
    const takenAt = fromCocoa(values.ZDATECREATED)
    const content = path ? await contentOf(this.tree, path, originalName ?? fileName) : null
    return {
      category: 'photos',
      condition: conditionOf(row, trashed, content),
      when: takenAt?.toISOString() ?? null,
      title: originalName ?? fileName ?? 'picture without a name',
      text: null,
      fields: {
        fileName: originalName ?? fileName,
        originalFileName: fileName,
        path,
        uuid: textValue(values.ZUUID),
        width: numberValue(values.ZWIDTH),
        height: numberValue(values.ZHEIGHT),
        takenAt: takenAt?.toISOString() ?? null,
        zoneKnown: numberValue(extra.ZTIMEZONEOFFSET) !== null,
        albums: this.library.albums(id),
        favourite: numberValue(values.ZFAVORITE) === 1,
        hidden: numberValue(values.ZHIDDEN) === 1,
        binnedAt: binnedAt?.toISOString() ?? null,
        daysLeft: trashed ? daysLeft(binnedAt, this.tree.info.takenAt) : null,
        latitude: coordinate(values.ZLATITUDE),
        longitude: coordinate(values.ZLONGITUDE),
        contentMissing: content === null,
      },
      content,
      origin: originOf(this.store, row),
      missing: row.missing,
      confidence: row.confidence,
    }
  }
}

// A rebuilt row without its picture still tells name, date and place: partial.
function conditionOf(row: Row, trashed: boolean, content: ContentRef | null): Condition {
  if (row.standing === 'live') return trashed ? 'binned' : 'live'
  return content && row.missing.length === 0 ? 'rebuilt' : 'partial'
}

// The library writes -180 for "no place".
function coordinate(value: Row['values'][string] | undefined): number | null {
  const degrees = numberValue(value)
  return degrees === null || degrees <= -180 ? null : degrees
}

async function contentOf(tree: SourceTree, path: string, name: string | null): Promise<ContentRef | null> {
  const entry = tree.find(DOMAIN, path)
  const source = entry && (await tree.open(entry))
  if (!source) return null
  await source.close()
  return {
    name: name ?? path.split('/').at(-1) ?? path,
    bytes: source.size,
    mime: mimeOf(path),
    sha256: null,
    domain: DOMAIN,
    path,
  }
}

/** A picture file that the library has no row for: what it says of itself is all there is. */
async function fileSighting(tree: SourceTree, entry: SourceEntry): Promise<Sighting> {
  const content = await contentOf(tree, entry.path, null)
  const metadata = content && (await metadataOf(tree, entry))
  const name = entry.path.split('/').at(-1) ?? entry.path
  const taken = metadata?.takenAt?.toISOString() ?? null
  return {
    category: 'photos',
    condition: 'live',
    when: taken,
    title: name,
    text: null,
    fields: {
      fileName: name,
      originalFileName: name,
      path: entry.path,
      uuid: null,
      width: metadata?.width ?? null,
      height: metadata?.height ?? null,
      takenAt: taken,
      zoneKnown: metadata?.zoneKnown ?? false,
      albums: [],
      favourite: false,
      hidden: false,
      binnedAt: null,
      daysLeft: null,
      latitude: metadata?.latitude ?? null,
      longitude: metadata?.longitude ?? null,
      contentMissing: content === null,
    },
    content,
    origin: {
      domain: entry.domain,
      path: entry.path,
      table: null,
      rowid: null,
      place: 'file',
      page: null,
      offset: null,
    },
    missing: [],
    confidence: 1,
  }
}

async function metadataOf(tree: SourceTree, entry: SourceEntry): Promise<PictureMetadata | null> {
  const source = await tree.open(entry)
  if (!source) return null
  try {
    return await readPictureMetadata(source)
  } finally {
    await source.close()
  }
}
