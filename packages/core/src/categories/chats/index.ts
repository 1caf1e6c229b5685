import { digest } from '../../io/hash.js'
import { rebuildRows } from '../../sqlite/residue/rebuild.js'
import { isStore, openStore } from '../open.js'
import { deletedItems, StoreRows, sightingOf } from '../rows.js'
import type { Category, ReadContext, Sighting, StorePlace } from '../types.js'
import { BUILT_IN_PROFILES } from './built-in.js'
import { ChatMapper } from './mapper.js'
import { matchesPattern, type Profile } from './profile.js'

const PLACES: readonly StorePlace[] = BUILT_IN_PROFILES.flatMap((profile) => profile.stores)

/** Conversations of third-party applications, each read by its mapping profile. */
export const chats: Category = {
  id: 'chats',
  label: 'Chats',
  preview: 'conversation',
  formats: ['html', 'csv'],
  stores: PLACES,
  holds: (entry) => isStore(PLACES, entry),
  read: readChats,
  identity: ({ fields, when, text }) =>
    typeof fields.guid === 'string'
      ? `${fields.app}:${fields.guid}`
      : `${fields.app}:text:${digest('sha256', JSON.stringify([when, fields.direction ?? null, text]))}`,
}

async function* readChats(context: ReadContext): AsyncGenerator<Sighting> {
  const seen = new Set<string>()
  // A profile of the technician's own comes first: it may be made for what a built-in one reads wrongly.
  for (const profile of [...(context.profiles ?? []), ...BUILT_IN_PROFILES])
    for (const place of storesOf(profile, context)) {
      const key = `${place.domain}/${place.path}`
      if (seen.has(key)) continue
      seen.add(key)
      yield* readByProfile(profile, place, context)
    }
}

/** The databases of a source that a profile describes. */
function* storesOf(profile: Profile, { tree }: ReadContext): Generator<StorePlace> {
  for (const { domain, path } of profile.stores) {
    if (!`${domain}${path}`.includes('*')) yield { domain, path }
    else
      for (const entry of tree.entries())
        if (entry.kind === 'file' && matchesPattern(domain, entry.domain) && matchesPattern(path, entry.path))
          yield { domain: entry.domain, path: entry.path }
  }
}

/** The messages of one database. */
export async function* readByProfile(
  profile: Profile,
  place: StorePlace,
  context: ReadContext,
): AsyncGenerator<Sighting> {
  const store = await openStore(context.tree, [place], context.report)
  if (!store) return
  try {
    const { table } = profile.messages
    if (!store.database.tables.has(table)) {
      context.report({
        code: 'store-unknown',
        message: `${place.path} has no table ${table}: it is of a generation that the profile "${profile.name}" does not know.`,
        path: place.path,
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
