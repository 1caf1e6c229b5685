import type { SourceEntry } from '../backup/types.js'
import type { WantedPlace } from '../collected/collector.js'
import type { Profile } from './chats/profile.js'
import { isStore } from './places.js'
import { CATEGORIES } from './table.js'
import type { CategoryId } from './types.js'

/** Categories that are read out of another one's files. */
const READ_FROM: Partial<Record<CategoryId, readonly CategoryId[]>> = {
  'message-attachments': ['messages'],
  'chat-attachments': ['chats'],
  'note-attachments': ['notes'],
  // Of films nothing but their rows, which stand in the same store: no film is fetched for its place.
  places: ['photos'],
}

/** Names of people stand in many categories, and come from the contacts. */
const ALWAYS: readonly CategoryId[] = ['contacts']

/** The stores from which a category is read; empty: from files that only a listing names. */
export const storesFor = (category: CategoryId): readonly WantedPlace[] =>
  [category, ...(READ_FROM[category] ?? [])].flatMap((id) => CATEGORIES[id].stores)

/** Says of each file whether a read of these categories uses it. */
export function wantedBy(
  categories: readonly CategoryId[],
  profiles: readonly Profile[] = [],
): (place: WantedPlace) => boolean {
  const read = [...new Set([...categories.flatMap((id) => [id, ...(READ_FROM[id] ?? [])]), ...ALWAYS])]
  const own = read.includes('chats') ? profiles.flatMap((profile) => profile.stores) : []
  return ({ domain, path }) => {
    const place = entryAt(domain, path.replace(/-(wal|journal)$/, ''))
    return read.some((id) => CATEGORIES[id].holds(place)) || isStore(own, place)
  }
}

const entryAt = (domain: string, path: string): SourceEntry => ({
  domain,
  path,
  kind: 'file',
  size: null,
  modifiedAt: null,
  createdAt: null,
  id: '',
  target: null,
  key: null,
})
