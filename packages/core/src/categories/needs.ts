import type { SourceEntry } from '../backup/types.js'
import type { WantedPlace } from '../collected/collector.js'
import { BUILT_IN_PROFILES } from './chats/built-in.js'
import type { Profile } from './chats/profile.js'
import { isStore, matchesPattern } from './places.js'
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

/** Categories whose files hang on another one's items: whoever reads the items wants them too. */
const HANGS_ON: Partial<Record<CategoryId, readonly CategoryId[]>> = {
  notes: ['note-attachments'],
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
  const asked = [...categories.flatMap((id) => [id, ...(READ_FROM[id] ?? [])]), ...ALWAYS]
  const read = [...new Set(asked.flatMap((id) => [id, ...(HANGS_ON[id] ?? [])]))]
  const chats = read.includes('chats') ? [...profiles, ...BUILT_IN_PROFILES] : []
  const stores = chats.flatMap((profile) => profile.stores)
  return ({ domain, path }) => {
    const place = entryAt(domain, path.replace(/-(wal|journal)$/, ''))
    return (
      read.some((id) => CATEGORIES[id].holds(place)) ||
      isStore(stores, place) ||
      chats.some((one) => hangsOn(one, place))
    )
  }
}

/** True for a file that messages of a profile may name. */
const hangsOn = ({ stores, attachments }: Profile, { domain, path }: WantedPlace): boolean =>
  attachments !== undefined &&
  path.startsWith(attachments.folder) &&
  stores.some((store) => matchesPattern(store.domain, domain))

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
