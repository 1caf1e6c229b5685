import type { SourceEntry } from '../../backup/types.js'
import { rebuildRows } from '../../sqlite/residue/rebuild.js'
import { keyedBy, ownId, talkLikeness } from '../keys.js'
import { openEntry } from '../open.js'
import { isStore, matchesOf } from '../places.js'
import { deletedItems, StoreRows, sightingOf } from '../rows.js'
import type { Category, ReadContext, Sighting, StorePlace } from '../types.js'
import { BUILT_IN_PROFILES } from './built-in.js'
import { chatsDefinition } from './definition.js'
import { chatFields } from './fields.js'
import { ChatMapper } from './mapper.js'
import type { Profile } from './profile.js'

const PLACES: readonly StorePlace[] = BUILT_IN_PROFILES.flatMap((profile) => profile.stores)

/** Conversations of third-party applications, each read by its mapping profile. */
export const chats: Category = {
  ...chatsDefinition,
  fields: chatFields,
  stores: PLACES,
  holds: (entry) => isStore(PLACES, entry),
  read: readChats,
  ...keyedBy(({ fields }) => ownId(String(fields.app), fields.guid), talkLikeness),
}

async function* readChats(context: ReadContext): AsyncGenerator<Sighting> {
  const seen = new Set<string>()
  // A profile of the technician's own comes first: it may be made for what a built-in one reads wrongly.
  for (const profile of [...(context.profiles ?? []), ...BUILT_IN_PROFILES])
    for (const entry of profile.stores.flatMap((place) => matchesOf(context.tree, place))) {
      const key = `${entry.domain}/${entry.path}`
      if (seen.has(key)) continue
      seen.add(key)
      yield* readByProfile(profile, entry, context)
    }
}

/** The messages of one database. */
export async function* readByProfile(
  profile: Profile,
  entry: SourceEntry,
  context: ReadContext,
): AsyncGenerator<Sighting> {
  const store = await openEntry(context.tree, entry, context.report)
  if (!store) return
  try {
    const { table } = profile.messages
    if (!store.database.tables.has(table)) {
      context.report({
        code: 'store-unknown',
        message: `${entry.path} has no table ${table}: it is of a generation that the profile "${profile.name}" does not know.`,
        path: entry.path,
      })
      return
    }
    const rebuilt = context.pass === 'live' ? [] : [...rebuildRows(store)]
    const mapper = new ChatMapper(profile, new StoreRows(store, rebuilt, context))
    for (const row of context.pass === 'live' ? store.database.rows(table) : deletedItems(rebuilt, table)) {
      const mapped = mapper.map(row)
      if (mapped) yield sightingOf('chats', row, mapped, store, context)
    }
  } finally {
    await store.close()
  }
}
