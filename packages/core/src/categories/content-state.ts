import { flawOf } from '../backup/integrity.js'
import type { SourceEntry, SourceTree } from '../backup/types.js'
import { readUpTo } from '../io/source.js'
import { attachmentsOf } from './attachments.js'
import { CONTENT_STATES, type ContentState } from './content-states.js'
import { useFile } from './open.js'
import type { Sighting } from './types.js'

/** What can be had of a sighting's content and of its attachments: the worst of them counts. */
export async function contentStateOf(tree: SourceTree, sighting: Sighting): Promise<ContentState> {
  const places = placesOf(sighting)
  let worst: ContentState =
    sighting.fields.contentMissing === true && !sighting.content ? await missing(tree, sighting) : 'none'
  for (const place of places) {
    const state = place === null ? 'absent' : await fileState(tree, place.domain, place.path)
    if (CONTENT_STATES.indexOf(state) > CONTENT_STATES.indexOf(worst)) worst = state
  }
  return worst
}

/** Of an item that should have a content and has none: whether its source lists the file. */
async function missing(tree: SourceTree, { fields }: Sighting): Promise<ContentState> {
  const { domain, path } = fields
  const place =
    typeof path === 'string' ? { domain: typeof domain === 'string' ? domain : 'CameraRollDomain', path } : null
  const state = place ? await fileState(tree, place.domain, place.path) : 'absent'
  // It could not be had when the item was read, whatever of it can be had now: the item is to be read again.
  return state === 'present' ? 'unreadable' : state
}

/** Where the files of a sighting lie; null: the source does not list one. */
export function placesOf(sighting: Sighting): ({ domain: string; path: string } | null)[] {
  const { content } = sighting
  const attached = attachmentsOf(sighting).map(({ domain, path }) => (path === null ? null : { domain, path }))
  return [...(content ? [{ domain: content.domain, path: content.path }] : []), ...attached]
}

/** Whether a file of a source can be had. */
export async function fileState(tree: SourceTree, domain: string, path: string): Promise<ContentState> {
  const entry = tree.find(domain, path)
  if (!entry) return 'absent'
  const flaw = await flawOf(tree, entry)
  switch (flaw?.flaw) {
    case 'missing':
      return isFetchable(entry) ? 'awaited' : 'lost'
    case 'cut':
      return 'unreadable'
    case 'locked':
      return 'locked'
    default:
      return (await canBeRead(tree, entry)) ? 'present' : 'unreadable'
  }
}

/** Whether the system gives out the beginning of a file: a bad sector further on shows when all of it is read. */
async function canBeRead(tree: SourceTree, entry: SourceEntry): Promise<boolean> {
  let readable = true
  const note = () => {
    readable = false
  }
  await useFile(tree, entry, note, (source) => readUpTo(source, 0, 1))
  return readable
}

const isFetchable = (entry: SourceEntry): boolean => 'reference' in entry && entry.reference !== null
