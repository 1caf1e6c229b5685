import type { SourceEntry } from '../backup/types.js'
import type { WantedPlace } from '../collected/collector.js'
import { BUILT_IN_PROFILES } from './chats/built-in.js'
import type { Profile } from './chats/profile.js'
import { isStore, matchesPattern } from './places.js'
import { type CategoryId, definitionOf, named } from './registry.js'
import { CATEGORIES } from './table.js'

/** Names of people stand in many categories, and come from the contacts. */
const ALWAYS: readonly CategoryId[] = ['contacts']

const readFrom = (category: CategoryId) => named(definitionOf(category).readFrom)

/** The stores from which a category is read; empty: from files that only a listing names. */
export const storesFor = (category: CategoryId): readonly WantedPlace[] =>
  [category, ...readFrom(category)].flatMap((id) => CATEGORIES[id].stores)

/** Says of each file whether a read of these categories uses it. */
export function wantedBy(
  categories: readonly CategoryId[],
  profiles: readonly Profile[] = [],
): (place: WantedPlace) => boolean {
  const asked = [...categories.flatMap((id) => [id, ...readFrom(id)]), ...ALWAYS]
  const read = [...new Set(asked.flatMap((id) => [id, ...named(definitionOf(id).files)]))]
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
