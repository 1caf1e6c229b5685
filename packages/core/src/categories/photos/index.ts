import type { SourceEntry, SourceTree } from '../../backup/types.js'
import { fromCocoa } from '../../io/time.js'
import { mimeOf } from '../../media/kinds.js'
import { rebuildRows } from '../../sqlite/residue/rebuild.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'
import { daysLeft } from '../bin.js'
import { isPreview } from '../files/kinds.js'
import { mediaWords } from '../files/own-words.js'
import { keyedBy, ownId } from '../keys.js'
import { fileOrigin, type OpenStore, openStore, originOf, requireTable, useFile } from '../open.js'
import type { Category, Condition, ContentRef, Json, ReadContext, Sighting } from '../types.js'
import { photosDefinition, videosDefinition } from './definition.js'
import { libraryFields } from './fields.js'
import { LibraryContext } from './library.js'

const DOMAIN = 'CameraRollDomain'
const PLACES = [{ domain: DOMAIN, path: 'Media/PhotoData/Photos.sqlite' }]
const ASSET_TABLES = ['ZASSET', 'ZGENERICASSET']

/** What of the library a category shows. */
interface LibraryKind {
  definition: typeof photosDefinition | typeof videosDefinition
  /** `ZKIND` of its rows, and how the media types of its files begin. */
  kind: number
  mime: string
}

/** Pictures, or films, of the photo library and of the camera's folders. */
function libraryCategory(of: LibraryKind): Category {
  const { definition } = of
  return {
    ...definition,
    fields: libraryFields,
    stores: PLACES,
    holds: (entry) =>
      entry.domain === DOMAIN &&
      !isPreview(entry) &&
      mimeOf(entry.path).startsWith('video/') === (definition.id === 'videos'),
    read: (context) => readLibrary(of, context),
    // The library's own id. A file that no library names is told by its place and size, which it shares with its row in
    // another state.
    ...keyedBy(
      ({ fields }) => ownId('uuid', fields.uuid),
      ({ fields }) => (fields.path && fields.fileBytes ? `file:${fields.path}:${fields.fileBytes}` : null),
    ),
  }
}

export const photos = libraryCategory({ definition: photosDefinition, kind: 0, mime: 'image/' })
export const videos = libraryCategory({ definition: videosDefinition, kind: 1, mime: 'video/' })

async function* readLibrary(of: LibraryKind, context: ReadContext): AsyncGenerator<Sighting> {
  const store = await openStore(context.tree, PLACES, context.report)
  if (store) requireTable(store, ASSET_TABLES, context.report)
  try {
    yield* context.pass === 'live' ? liveItems(of, context, store) : rebuiltItems(of, context, store)
  } finally {
    await store?.close()
  }
}

async function* liveItems(
  of: LibraryKind,
  context: ReadContext,
  store: OpenStore | undefined,
): AsyncGenerator<Sighting> {
  const listed = new Set<string>()
  if (store) {
    const mapper = new AssetMapper(of, context.tree, store, await LibraryContext.load(store.database))
    for (const table of ASSET_TABLES)
      for (const row of store.database.rows(table)) {
        listed.add(pathOf(row) ?? '')
        if (isOfKind(row, of)) yield await mapper.sighting(row)
      }
  }
  for (const entry of context.tree.entries())
    if (isCameraFile(entry, of) && !listed.has(entry.path) && !isFilmOfPicture(entry, context.tree))
      yield fileSighting(of, context, entry)
}

async function* rebuiltItems(
  of: LibraryKind,
  context: ReadContext,
  store: OpenStore | undefined,
): AsyncGenerator<Sighting> {
  if (!store) return
  const mapper = new AssetMapper(of, context.tree, store, await LibraryContext.load(store.database))
  for (const row of rebuildRows(store))
    if (ASSET_TABLES.includes(row.table ?? '') && row.standing === 'deleted' && isOfKind(row, of))
      yield await mapper.sighting(row)
}

const isOfKind = (row: Row, { kind }: LibraryKind) => (numberValue(row.values.ZKIND) ?? 0) === kind

const isCameraFile = (entry: SourceEntry, { mime }: LibraryKind) =>
  entry.kind === 'file' &&
  entry.domain === DOMAIN &&
  entry.path.startsWith('Media/DCIM/') &&
  mimeOf(entry.path).startsWith(mime)

const PICTURE_ENDINGS = ['HEIC', 'JPG', 'heic', 'jpg', 'JPEG']

/** The moving half of a live picture has its name, and no row of its own. */
const isFilmOfPicture = ({ path }: SourceEntry, tree: SourceTree) =>
  /\.mov$/i.test(path) && PICTURE_ENDINGS.some((ending) => tree.find(DOMAIN, path.replace(/mov$/i, ending)))

function pathOf(row: Row): string | null {
  const folder = textValue(row.values.ZDIRECTORY)
  const name = textValue(row.values.ZFILENAME)
  return folder && name ? `Media/${folder}/${name}` : null
}

class AssetMapper {
  constructor(
    readonly of: LibraryKind,
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
      category: this.of.definition.id,
      condition: conditionOf(row, trashed, content),
      when: takenAt?.toISOString() ?? null,
      title: originalName ?? fileName ?? 'without a name',
      text: null,
      fields: {
        fileName: originalName ?? fileName,
        originalFileName: fileName,
        path,
        fileBytes: path === null ? null : (this.tree.find(DOMAIN, path)?.size ?? null),
        uuid: textValue(values.ZUUID),
        width: numberValue(values.ZWIDTH),
        height: numberValue(values.ZHEIGHT),
        takenAt: takenAt?.toISOString() ?? null,
        zoneKnown: numberValue(extra.ZTIMEZONEOFFSET) !== null,
        albums: this.library.albums(id),
        favourite: numberValue(values.ZFAVORITE) === 1,
        hidden: numberValue(values.ZHIDDEN) === 1,
        ...this.#shape(values, path),
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

  /** What kind of picture or film it is, and the files that belong to it. */
  #shape(values: Row['values'], path: string | null): { [key: string]: Json } {
    const film = path?.replace(/\.[^.]+$/, '.MOV')
    const edited =
      path && EDITED.map((name) => `${editsFolder(path)}/${name}`).find((one) => this.tree.find(DOMAIN, one))
    const duration = numberValue(values.ZDURATION)
    return {
      durationSeconds: this.of.kind === 1 ? duration : null,
      shape: SHAPES[numberValue(values.ZKINDSUBTYPE) ?? 0] ?? null,
      burst: textValue(values.ZAVALANCHEUUID),
      edited: (numberValue(values.ZADJUSTMENTSSTATE) ?? numberValue(values.ZHASADJUSTMENTS) ?? 0) > 0,
      editedPath: edited || null,
      filmPath: this.of.kind === 0 && film && this.tree.find(DOMAIN, film) ? film : null,
    }
  }
}

// Kinds beside the ordinary one, and where edited versions lie (from memory).
const SHAPES: Record<number, string> = {
  1: 'panorama',
  2: 'live picture',
  10: 'screenshot',
  101: 'slow motion',
  102: 'time lapse',
  103: 'screen recording',
}
const EDITED = ['FullSizeRender.jpg', 'FullSizeRender.heic', 'FullSizeRender.mov']
const editsFolder = (path: string) =>
  `Media/PhotoData/Mutations/${path.replace(/^Media\//, '').replace(/\.[^.]+$/, '')}/Adjustments`

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
  const bytes = entry && (await tree.contentSize(entry))
  if (bytes === undefined) return null
  return {
    name: name ?? path.split('/').at(-1) ?? path,
    bytes,
    mime: mimeOf(path),
    sha256: null,
    domain: DOMAIN,
    path,
  }
}

/** A picture or film that the library has no row for: what it says of itself is all there is. */
async function fileSighting(of: LibraryKind, { tree, report }: ReadContext, entry: SourceEntry): Promise<Sighting> {
  const content = await contentOf(tree, entry.path, null)
  const metadata = content && (await useFile(tree, entry, report, (source) => mediaWords(source, content.mime)))
  const edited = entry.modifiedAt?.toISOString() ?? null
  const name = entry.path.split('/').at(-1) ?? entry.path
  const taken = metadata?.takenAt?.toISOString() ?? null
  return {
    category: of.definition.id,
    condition: 'live',
    // Of a film that does not say it the file's own time is the nearest.
    when: taken ?? (of.definition.id === 'videos' ? edited : null),
    title: name,
    text: null,
    fields: {
      fileName: name,
      originalFileName: name,
      path: entry.path,
      fileBytes: entry.size,
      uuid: null,
      width: metadata?.width ?? null,
      height: metadata?.height ?? null,
      takenAt: taken,
      zoneKnown: metadata?.zoneKnown ?? false,
      durationSeconds: metadata?.durationSeconds ?? null,
      ...(metadata?.camera && { camera: metadata.camera }),
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
    origin: fileOrigin(entry),
    missing: [],
    confidence: 1,
  }
}
