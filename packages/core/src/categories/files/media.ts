import type { SourceEntry } from '../../backup/types.js'
import { daysLeft } from '../bin.js'
import { useFile } from '../open.js'
import type { DefinedCategory } from '../registry.js'
import type { Category, ReadContext, Sighting } from '../types.js'
import { carvedSightings } from './carved.js'
import {
  appFilesDefinition,
  appPicturesDefinition,
  appSoundsDefinition,
  appVideosDefinition,
  booksDefinition,
  musicDefinition,
  previewsDefinition,
  ringtonesDefinition,
} from './definition.js'
import { placedFileFields } from './fields.js'
import { fileSighting } from './index.js'
import { appOf, FILE_KINDS, type FileKind } from './kinds.js'
import { ownWordsOf } from './own-words.js'

/** A category of files that are told by where they lie and what they are. */
function fileCategory(definition: DefinedCategory & { id: FileKind }): Category {
  const { id, carved } = definition
  const holds = (entry: SourceEntry) => entry.kind === 'file' && FILE_KINDS[id](entry)
  return {
    ...definition,
    fields: placedFileFields,
    stores: [],
    holds,
    async *read(context: ReadContext) {
      const { tree, pass } = context
      if (pass === 'carving' && carved) yield* carvedSightings(id, context)
      if (pass !== 'live') return
      for (const entry of tree.entries())
        if (holds(entry))
          yield located(id, await withOwnWords(id, fileSighting(tree, entry), entry, context), entry, tree.info)
    },
    identity: ({ origin }) =>
      `file:${origin.domain}/${origin.path}${origin.place === 'carved' ? ` ${origin.offset}` : ''}`,
  }
}

/** When and where a picture or film was taken says more of it than when its file was changed. */
async function withOwnWords(
  category: FileKind,
  sighting: Sighting,
  entry: SourceEntry,
  { tree, report }: ReadContext,
): Promise<Sighting> {
  const { content, fields } = sighting
  if (!SPEAKING.includes(category) || !content || fields.contentMissing === true) return sighting
  const said = await useFile(tree, entry, report, (source) => ownWordsOf(source, content.mime))
  return said ? { ...sighting, when: said.when ?? sighting.when, fields: { ...fields, ...said.fields } } : sighting
}
const SPEAKING: readonly FileKind[] = ['app-pictures', 'app-videos']

// The bin of the device's own file manager (from memory).
const BIN = /(?:^|\/)File Provider Storage\/\.Trash\//

function located(
  category: FileKind,
  sighting: Sighting,
  entry: SourceEntry,
  { takenAt }: { takenAt: Date | null },
): Sighting {
  const binned = BIN.test(entry.path)
  const { content, fields } = sighting
  const missing = fields.contentMissing === true
  return {
    ...sighting,
    category,
    condition: binned ? 'binned' : 'live',
    fields: {
      ...fields,
      app: appOf(entry),
      mime: content?.mime ?? null,
      bytes: entry.size,
      // The day of the move is the last change of the file, as near as can be told.
      binnedAt: binned ? (entry.modifiedAt?.toISOString() ?? null) : null,
      daysLeft: binned ? daysLeft(entry.modifiedAt, takenAt) : null,
    },
    content: missing ? null : content,
  }
}

export const previews = fileCategory(previewsDefinition)
export const music = fileCategory(musicDefinition)
export const ringtones = fileCategory(ringtonesDefinition)
export const books = fileCategory(booksDefinition)
export const appPictures = fileCategory(appPicturesDefinition)
export const appVideos = fileCategory(appVideosDefinition)
export const appSounds = fileCategory(appSoundsDefinition)
export const appFiles = fileCategory(appFilesDefinition)
