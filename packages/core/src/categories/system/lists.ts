import type { SourceEntry } from '../../backup/types.js'
import { dateOf, isDict, type PlistValue, textOf } from '../../plist/read.js'
import { fileOrigin, listIn } from '../open.js'
import type { CategoryId } from '../registry.js'
import type { Category, ReadContext, Sighting } from '../types.js'
import { installedAppsDefinition, networksDefinition } from './definition.js'
import { installedAppFields, networkFields } from './fields.js'

const WIFI = [
  { domain: 'SystemPreferencesDomain', path: 'SystemConfiguration/com.apple.wifi.known-networks.plist' },
  { domain: 'SystemPreferencesDomain', path: 'SystemConfiguration/com.apple.wifi.plist' },
]

/** Wireless networks that the device knows. Since version 13 only encrypted backups hold them. */
export const networks: Category = {
  ...networksDefinition,
  fields: networkFields,
  stores: WIFI,
  holds: ({ domain, path }) => WIFI.some((place) => place.domain === domain && place.path === path),
  read: readNetworks,
  identity: ({ fields }) => `ssid:${fields.ssid}`,
}

async function* readNetworks({ tree, pass, report }: ReadContext): AsyncGenerator<Sighting> {
  if (pass !== 'live') return
  const seen = new Set<string>()
  for (const place of WIFI) {
    const entry = tree.find(place.domain, place.path)
    const list = entry && (await listIn(tree, entry, report))
    for (const network of networksOf(list))
      if (!seen.has(network.ssid)) {
        seen.add(network.ssid)
        yield networkSighting(network, entry as SourceEntry)
      }
  }
}

interface Network {
  ssid: string
  bssid: string | null
  added: Date | null
  joined: Date | null
}

/** Both generations: a list under one key, or a dictionary with a key for each network. */
function networksOf(list: PlistValue | undefined): Network[] {
  if (!isDict(list)) return []
  const known = list['List of known networks']
  const older = Array.isArray(known) ? known.filter(isDict) : []
  const newer = Object.entries(list).flatMap(([key, value]) =>
    key.startsWith('wifi.network.ssid.') && isDict(value) ? [{ key, value }] : [],
  )
  return [
    ...older.flatMap((one) => {
      const ssid = textOf(one.SSID_STR)
      return ssid
        ? [
            {
              ssid,
              bssid: textOf(one.BSSID),
              added: null,
              joined: dateOf(one.lastJoined) ?? dateOf(one.lastAutoJoined),
            },
          ]
        : []
    }),
    ...newer.map(({ key, value }) => ({
      ssid: key.slice('wifi.network.ssid.'.length),
      bssid: null,
      added: dateOf(value.AddedAt),
      joined: dateOf(value.JoinedByUserAt) ?? dateOf(value.JoinedBySystemAt),
    })),
  ]
}

const networkSighting = ({ ssid, bssid, added, joined }: Network, entry: SourceEntry): Sighting =>
  listed('networks', entry, ssid, joined ?? added, {
    ssid,
    bssid,
    addedAt: added?.toISOString() ?? null,
    joinedAt: joined?.toISOString() ?? null,
  })

/** Applications that left folders in the source: those that are installed, and those that were. */
export const installedApps: Category = {
  ...installedAppsDefinition,
  fields: installedAppFields,
  stores: [],
  holds: () => false,
  read: readApps,
  identity: ({ fields }) => `app:${fields.bundleId}`,
}

async function* readApps({ tree, pass }: ReadContext): AsyncGenerator<Sighting> {
  if (pass !== 'live') return
  const installed = new Set(tree.info.installedApps)
  const folders = new Map<string, { files: number; bytes: number; entry: SourceEntry }>()
  for (const entry of tree.entries()) {
    const id = /^AppDomain-(?!com\.apple\.)(.+)$/.exec(entry.domain)?.[1]
    if (!id) continue
    const known = folders.get(id) ?? { files: 0, bytes: 0, entry }
    if (entry.kind === 'file') {
      known.files++
      known.bytes += entry.size ?? 0
    }
    folders.set(id, known)
  }
  for (const bundleId of [...new Set([...installed, ...folders.keys()])].sort()) {
    const folder = folders.get(bundleId)
    const origin = folder?.entry ?? { domain: '', path: 'Info.plist' }
    yield {
      ...listed('installed-apps', origin, bundleId, null, {
        bundleId,
        installed: installed.has(bundleId),
        files: folder?.files ?? 0,
        bytes: folder?.bytes ?? 0,
      }),
      // An application that is gone left its folder behind.
      condition: installed.has(bundleId) ? 'live' : 'rebuilt',
    }
  }
}

const listed = (
  category: CategoryId,
  { domain, path }: Pick<SourceEntry, 'domain' | 'path'>,
  title: string,
  when: Date | null,
  fields: Sighting['fields'],
): Sighting => ({
  category,
  condition: 'live',
  when: when?.toISOString() ?? null,
  title,
  text: null,
  fields,
  content: null,
  origin: fileOrigin({ domain, path }),
  missing: [],
  confidence: 1,
})
