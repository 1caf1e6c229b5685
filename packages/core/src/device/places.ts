import { createHash } from 'node:crypto'

/** Where a file stands in a backup. */
export interface Place {
  domain: string
  path: string
}

/** The name under which a backup keeps a file's content: SHA-1 over domain, hyphen and path. */
export const contentId = ({ domain, path }: Place): string =>
  createHash('sha1').update(`${domain}-${path}`).digest('hex')

// Where the domains lie on a device (from memory). Several share a root: the content's name tells which one it is.
const ROOTS: [root: string, domain: string, prefix: string][] = [
  ['/var/mobile/Media/', 'CameraRollDomain', 'Media/'],
  ['/var/mobile/Media/', 'MediaDomain', 'Media/'],
  ['/var/mobile/Library/', 'HomeDomain', 'Library/'],
  ['/var/mobile/Library/', 'MediaDomain', 'Library/'],
  ['/var/wireless/', 'WirelessDomain', ''],
  ['/var/Keychains/', 'KeychainDomain', ''],
  ['/var/root/', 'RootDomain', ''],
  ['/var/db/', 'DatabaseDomain', ''],
  ['/var/preferences/', 'SystemPreferencesDomain', ''],
]
const CONTAINERS: [folder: RegExp, domain: string][] = [
  [/^\/var\/mobile\/Containers\/Data\/Application\/([^/]+)\/(.+)$/, 'AppDomain-'],
  [/^\/var\/mobile\/Containers\/Shared\/AppGroup\/([^/]+)\/(.+)$/, 'AppDomainGroup-'],
  [/^\/var\/mobile\/Containers\/Data\/PluginKitPlugin\/([^/]+)\/(.+)$/, 'AppDomainPlugin-'],
]

/** What a file of the device is in a backup, proven by the name that its content gets. Undefined: that is not known. */
export function placeOf(devicePath: string, id: string): Place | undefined {
  const candidates: Place[] = ROOTS.filter(([root]) => devicePath.startsWith(root)).map(([root, domain, prefix]) => ({
    domain,
    path: `${prefix}${devicePath.slice(root.length)}`,
  }))
  for (const [folder, domain] of CONTAINERS) {
    const [, name, path] = folder.exec(devicePath) ?? []
    if (name && path) candidates.push({ domain: `${domain}${name}`, path })
  }
  return candidates.find((place) => contentId(place) === id)
}

/** The same the other way, for a stand-in: where a device would keep this. */
export function devicePathOf({ domain, path }: Place): string {
  for (const [root, name, prefix] of ROOTS)
    if (name === domain && path.startsWith(prefix)) return `${root}${path.slice(prefix.length)}`
  const [kind = '', ...rest] = domain.split('-')
  const folder = {
    AppDomain: 'Data/Application',
    AppDomainGroup: 'Shared/AppGroup',
    AppDomainPlugin: 'Data/PluginKitPlugin',
  }[kind]
  return folder ? `/var/mobile/Containers/${folder}/${rest.join('-')}/${path}` : `/var/${domain}/${path}`
}
