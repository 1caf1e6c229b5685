import type { SourceEntry, SourceTree } from '../../backup/types.js'
import { mimeOf } from '../../media/kinds.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'
import type { AttachmentRef } from '../attachments.js'
import { firstValue, type StoreRows } from '../rows.js'

export const NOTES_DOMAIN = 'AppDomainGroup-group.com.apple.notes'
export const OBJECTS = 'ZICCLOUDSYNCINGOBJECT'

// Accounts/<account>/Media/<media>/[<generation>/]<name>, older: Media/<media>/<name> (from memory).
const MEDIA = /(?:^|\/)Media\/([^/]+)\/(?:[^/]+\/)?[^/]+$/

/** True for the files that hang on notes. */
export const isNoteMedia = ({ domain, path }: SourceEntry): boolean => domain === NOTES_DOMAIN && MEDIA.test(path)

// Made once for a source: every note asks for its own.
const indices = new WeakMap<SourceTree, Map<string, SourceEntry>>()

function mediaOf(tree: SourceTree): Map<string, SourceEntry> {
  const known = indices.get(tree)
  if (known) return known
  const index = new Map<string, SourceEntry>()
  for (const entry of tree.entries())
    if (entry.kind === 'file' && isNoteMedia(entry)) index.set(MEDIA.exec(entry.path)?.[1] as string, entry)
  indices.set(tree, index)
  return index
}

/** The files of a note: an attachment's row names its media's row, and that one the file. */
export function noteAttachments(note: Row | undefined, rows: StoreRows): AttachmentRef[] {
  const id = numberValue(note?.rowid ?? null)
  if (id === null) return []
  return rows.having(OBJECTS, 'ZNOTE', id).flatMap((attachment) => {
    const media = rows.byId(OBJECTS, numberValue(attachment.values.ZMEDIA))
    const identifier = textValue(media?.values.ZIDENTIFIER)
    const name = textValue(firstValue(media, 'ZFILENAME'))
    if (!identifier || !name) return []
    const entry = mediaOf(rows.context.tree).get(identifier)
    const bytes = entry?.size ?? numberValue(firstValue(attachment, 'ZFILESIZE')) ?? 0
    return [{ name, mime: mimeOf(name), bytes, sha256: null, domain: NOTES_DOMAIN, path: entry?.path ?? null }]
  })
}
