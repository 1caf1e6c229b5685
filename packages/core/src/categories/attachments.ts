import { mimeOf } from '../media/kinds.js'
import { attachmentFields } from './field-values.js'
import type { CategoryId, DefinedCategory } from './registry.js'
import type { Category, Condition, Json, ReadContext, Sighting } from './types.js'

/** A file that hangs on a message or a note, as it stands in the item's `attachments`. */
export type AttachmentRef = {
  name: string
  mime: string
  bytes: number
  /** Null until it has been computed. */
  sha256: string | null
  /** Place in the source; a null path means that the source does not list the file. */
  domain: string
  path: string | null
}

/** The attachments of an item, whatever its category. */
export function attachmentsOf({ fields }: Pick<Sighting, 'fields'>): AttachmentRef[] {
  return Array.isArray(fields.attachments) ? (fields.attachments as AttachmentRef[]) : []
}

/** A category of its own for the files that hang on another category's items. */
export function attachmentCategory(
  definition: DefinedCategory,
  parent: Category,
  holds: Category['holds'] = () => false,
): Category {
  return {
    ...definition,
    fields: attachmentFields,
    stores: [],
    holds,
    async *read(context: ReadContext) {
      const seen = new Set<string>()
      for await (const item of parent.read(context))
        for (const attachment of attachmentsOf(item)) {
          const sighting = attachmentSighting(definition.id, attachment, item)
          const key = identityOf(sighting)
          // A file that was passed on hangs on several items.
          if (seen.has(key)) continue
          seen.add(key)
          yield sighting
        }
    },
    identity: identityOf,
  }
}

const identityOf = ({ fields, content }: Sighting): string =>
  content ? `file:${content.domain}/${content.path}` : `lost:${fields.domain}:${fields.parent}:${fields.fileName}`

function attachmentSighting(category: CategoryId, attachment: AttachmentRef, item: Sighting): Sighting {
  const { name, bytes, domain, path } = attachment
  const mime = attachment.mime || mimeOf(name)
  const fields: { [key: string]: Json } = {
    fileName: name,
    mime,
    bytes,
    domain,
    path,
    parent: item.fields.guid ?? item.fields.uuid ?? null,
    conversation: item.fields.conversation ?? null,
    sender: item.fields.sender ?? null,
    sentAt: item.when,
    binnedAt: item.fields.binnedAt ?? null,
    daysLeft: item.fields.daysLeft ?? null,
    contentMissing: path === null,
  }
  return {
    category,
    condition: conditionOf(item.condition, path !== null),
    when: item.when,
    title: name,
    text: item.text || item.title || null,
    fields,
    content: path === null ? null : { name, bytes, mime, sha256: null, domain, path },
    origin: item.origin,
    missing: [],
    confidence: item.confidence,
  }
}

/** A file that is still there is whole, even where the item that it hung on came back in part only. */
function conditionOf(item: Condition, present: boolean): Condition {
  if (item === 'live' || item === 'binned') return item
  return present ? 'rebuilt' : 'partial'
}
