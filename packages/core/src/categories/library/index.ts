import { z } from 'zod'
import { readEntry } from '../../backup/open.js'
import type { SourceTree } from '../../backup/types.js'
import { LIBRARY_DOMAIN, type LibraryList } from '../../cloud/library-collector.js'
import type { Report } from '../../io/errors.js'
import { mimeOf } from '../../media/kinds.js'
import { daysLeft } from '../bin.js'
import { fileOrigin } from '../open.js'
import type { CategoryId } from '../registry.js'
import type { ContentRef, Sighting } from '../types.js'

const MOST_LIST_BYTES = 512 << 20
const fields = z.record(z.string(), z.json())
const place = { domain: z.string(), path: z.string(), size: z.number() }
const Photo = z.object({
  condition: z.enum(['live', 'binned']),
  title: z.string(),
  takenAt: z.nullable(z.string()),
  fields,
  ...place,
})
const Deleted = z.object({ name: z.string(), folder: z.string(), deletedAt: z.string(), ...place })
const Archived = z.object({ title: z.string(), when: z.nullable(z.string()), text: z.nullable(z.string()), fields })

/** What the cloud service itself shows, with the list of the library where it stands. */
export const LIBRARY_LIST_OF: Partial<Record<CategoryId, LibraryList>> = {
  photos: 'photos.jsonl',
  videos: 'photos.jsonl',
  'app-files': 'deleted-files.jsonl',
  contacts: 'contacts.jsonl',
  events: 'calendars.jsonl',
  reminders: 'reminders.jsonl',
  bookmarks: 'bookmarks.jsonl',
}

/** Categories that these lists of a library can hold. */
export const categoriesOf = (lists: readonly LibraryList[]): CategoryId[] =>
  (Object.entries(LIBRARY_LIST_OF) as [CategoryId, LibraryList][])
    .filter(([, list]) => lists.includes(list))
    .map(([id]) => id)

/** Items of a category as a library lists them: live, or in its bin. There are no leftovers: the service gives none. */
export async function* libraryItems(tree: SourceTree, category: CategoryId, report: Report): AsyncGenerator<Sighting> {
  const list = LIBRARY_LIST_OF[category]
  const entry = list && tree.find(LIBRARY_DOMAIN, list)
  const bytes = entry && (await readEntry(tree, entry, MOST_LIST_BYTES))
  if (!entry || !bytes) return
  const lines = Buffer.from(bytes).toString('utf8').split('\n')
  let broken = 0
  for (const [row, line] of lines.entries()) {
    if (line === '') continue
    const sighting = made(line, category, tree)
    if (sighting === 'broken') broken++
    else if (sighting)
      // A picture or file stands for itself; an item of an archive stands in its list.
      yield { ...sighting, category, origin: { ...fileOrigin(sighting.content ?? entry), rowid: row + 1 } }
  }
  if (broken > 0)
    report({
      code: 'library-line',
      message: `${broken} lines of ${list} are damaged; their items are not shown.`,
      path: list,
    })
}

type Made = Omit<Sighting, 'category' | 'origin'>

function made(line: string, category: CategoryId, tree: SourceTree): Made | 'broken' | undefined {
  try {
    const value: unknown = JSON.parse(line)
    if (category === 'photos' || category === 'videos') return photo(Photo.parse(value), category, tree)
    if (category === 'app-files') return deleted(Deleted.parse(value), tree)
    const { title, when, text, fields } = Archived.parse(value)
    return { condition: 'live', when, title, text, fields, content: null, missing: [], confidence: 1 }
  } catch {
    return 'broken'
  }
}

function photo(item: z.infer<typeof Photo>, category: CategoryId, { info }: SourceTree): Made | undefined {
  const content = contentOf(item, item.title)
  if (content.mime.startsWith('video/') !== (category === 'videos')) return undefined
  const binnedAt = typeof item.fields.binnedAt === 'string' ? new Date(item.fields.binnedAt) : null
  const left = item.condition === 'binned' ? daysLeft(binnedAt, info.takenAt) : null
  return {
    condition: item.condition,
    when: item.takenAt,
    title: item.title,
    text: null,
    fields: { ...item.fields, daysLeft: left, contentMissing: false },
    content,
    missing: [],
    confidence: 1,
  }
}

function deleted(item: z.infer<typeof Deleted>, { info }: SourceTree): Made {
  const content = contentOf(item, item.name)
  return {
    condition: 'binned',
    when: item.deletedAt,
    title: item.name,
    text: null,
    fields: {
      fileName: item.name,
      path: item.path,
      domain: item.domain,
      app: null,
      mime: content.mime,
      bytes: item.size,
      binnedAt: item.deletedAt,
      daysLeft: daysLeft(new Date(item.deletedAt), info.takenAt),
      contentMissing: false,
    },
    content,
    missing: [],
    confidence: 1,
  }
}

function contentOf({ domain, path, size }: { domain: string; path: string; size: number }, name: string): ContentRef {
  return { name, bytes: size, mime: mimeOf(path), sha256: null, domain, path }
}
