import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { build } from 'plist'
import { type CollectedEntry, Collection } from '../collected/collection.js'
import type { Collector, CollectorOptions, WantedPlace } from '../collected/collector.js'
import { backupFolder } from '../collected/open.js'
import { textOf } from '../plist/read.js'
import { AfcClient, type AfcEntry } from './afc.js'
import { receiveBackup } from './backup-service.js'
import { DeviceError } from './errors.js'
import { type ListValue, needDict, xmlFrame } from './lists.js'
import { Lockdown } from './lockdown.js'
import type { Attached, Multiplexer } from './multiplexer.js'
import { contentId } from './places.js'
import { StreamReader, send } from './stream.js'

/** Folders of the area that the file service shows, with the domain under which each stands in backups. */
const MEDIA_FOLDERS: Readonly<Record<string, string>> = {
  '/DCIM': 'CameraRollDomain',
  '/PhotoData': 'CameraRollDomain',
  '/Recordings': 'MediaDomain',
  '/Books': 'MediaDomain',
  '/iTunes_Control': 'MediaDomain',
}
// Previews by the thousand, which backups leave out too: listed only where somebody asked for them.
const LEFT_OUT = /^\/PhotoData\/(Thumbnails|Caches|CPL)(\/|$)/

/** True for a file that the file service shows. */
const isInMediaArea = ({ domain, path }: WantedPlace): boolean =>
  Object.entries(MEDIA_FOLDERS).some(([folder, of]) => of === domain && path.startsWith(`Media${folder}/`))

/**
 * Reads a device over its cable: the media area file by file, all else out of the backup that the device makes when it
 * is asked to. Nothing is written to the device.
 */
export class DeviceCollector implements Collector {
  readonly #collection: Collection
  #session: Promise<Lockdown> | undefined
  #media: Promise<AfcClient> | undefined
  #received = false

  constructor(
    readonly mux: Multiplexer,
    readonly udid: string,
    readonly options: CollectorOptions,
  ) {
    this.#collection = new Collection(options.folder)
    options.signal.addEventListener('abort', () => void this.close(), { once: true })
  }

  async begin(anew: boolean): Promise<void> {
    const lockdown = await this.#lockdown()
    if (!anew && (await this.#collection.hasListing())) {
      this.#received = (await this.#collection.header()).receivedAt !== null
      return
    }
    await this.#collection.writeHeader({
      kind: 'device',
      deviceName: textOf(await lockdown.value('DeviceName')),
      productType: textOf(await lockdown.value('ProductType')),
      osVersion: lockdown.osVersion,
      uniqueId: this.udid,
      serialNumber: textOf(await lockdown.value('SerialNumber')),
      takenAt: new Date(),
      installedApps: await installedApps(lockdown),
      origin: { udid: this.udid },
    })
    this.#received = false
    const earlier = new Map((await this.#collection.listing()).entries.map((entry) => [entry.id, entry]))
    await this.#collection.writeListing(this.#listMedia(earlier))
  }

  /** What changed on the device since the listing before is fetched anew. */
  async *#listMedia(earlier: ReadonlyMap<string, CollectedEntry>): AsyncGenerator<CollectedEntry> {
    const afc = await this.#afc()
    let items = 0
    for (const [folder, domain] of Object.entries(MEDIA_FOLDERS))
      for await (const entry of afc.walk(folder)) {
        const listed = listedEntry(entry, domain)
        if (LEFT_OUT.test(entry.path) && !this.options.wants?.(listed)) continue
        const before = earlier.get(listed.id)
        if (before && !sameContent(before, listed)) await this.#collection.forget(before.id)
        this.options.progress({ what: 'Listing the device', items: ++items, bytes: 0, bytesTotal: 0 })
        yield listed
      }
  }

  async prepare(stores: readonly WantedPlace[], wants: (place: WantedPlace) => boolean): Promise<boolean> {
    if (isOnlyMedia(stores) || this.#received) return false
    const { folder, progress, report, signal } = this.options
    const listed = new Set((await this.#collection.listing()).entries.map(({ id }) => id))
    await this.#writeInfo(join(backupFolder(folder), this.udid))
    await receiveBackup(await this.#lockdown(), {
      folder: backupFolder(folder),
      // What the file service lists is fetched file by file; what cannot be told by its name is kept until it can.
      wants: (place) => !place || (!listed.has(contentId(place)) && wants(place)),
      progress: ({ files, bytes, total }) =>
        progress({ what: 'Receiving a backup from the device', items: files, bytes, bytesTotal: total }),
      broken: ({ devicePath, error }) =>
        report({
          code: 'device-file',
          message: `The device could not send ${devicePath}: ${error}.`,
          path: devicePath,
        }),
      signal,
    })
    await this.#collection.writeHeader({ ...(await this.#collection.header()), receivedAt: new Date() })
    this.#received = true
    return true
  }

  async dateOf(stores: readonly WantedPlace[]): Promise<Date | null> {
    const { takenAt, receivedAt } = await this.#collection.header()
    return isOnlyMedia(stores) ? takenAt : receivedAt
  }

  /** The list that this side of a backup writes: what the device says of itself. */
  async #writeInfo(folder: string): Promise<void> {
    const { deviceName, productType, osVersion, installedApps } = await this.#collection.header()
    await mkdir(folder, { recursive: true })
    const known = Object.entries({
      'Device Name': deviceName,
      'Product Type': productType,
      'Product Version': osVersion,
      'Installed Applications': installedApps,
      'Last Backup Date': new Date(),
      'Target Identifier': this.udid,
      'Unique Identifier': this.udid.toUpperCase(),
    }).filter(([, value]) => value !== null)
    await writeFile(join(folder, 'Info.plist'), build(Object.fromEntries(known) as { [key: string]: ListValue }))
  }

  readonly fetch = async (entry: CollectedEntry): Promise<boolean> => {
    if (entry.reference === null) return false
    const afc = await this.#afc()
    const content = await this.#collection.beginContent(entry.id)
    try {
      for await (const piece of afc.read(entry.reference, content.size, entry.size)) await content.add(piece)
    } catch (thrown) {
      const gone = thrown instanceof DeviceError && thrown.code === 'refused'
      await (gone ? content.discard() : content.pause())
      if (!gone) throw thrown
      this.options.report({ code: 'device-file', message: `${entry.path}: ${thrown.message}`, path: entry.path })
      return false
    }
    if (entry.size !== null && content.size !== entry.size)
      this.options.report({
        code: 'device-file-changed',
        message: `${entry.path} changed on the device while it was read; what was received is kept.`,
        path: entry.path,
      })
    await content.keep()
    return true
  }

  #lockdown(): Promise<Lockdown> {
    this.#session ??= this.#open()
    return this.#session
  }

  async #open(): Promise<Lockdown> {
    const device = (await this.mux.devices()).find((one) => one.udid === this.udid)
    if (!device) throw new DeviceError('unplugged')
    return Lockdown.session(this.mux, device as Attached)
  }

  #afc(): Promise<AfcClient> {
    this.#media ??= this.#lockdown()
      .then((lockdown) => lockdown.service('com.apple.afc'))
      .then((stream) => new AfcClient(stream, this.mux.silenceMs))
    return this.#media
  }

  async close(): Promise<void> {
    const [media, session] = await Promise.allSettled([this.#media, this.#session])
    if (media.status === 'fulfilled') media.value?.close()
    if (session.status === 'fulfilled') session.value?.close()
  }
}

const isOnlyMedia = (stores: readonly WantedPlace[]): boolean => stores.length > 0 && stores.every(isInMediaArea)

function listedEntry({ path, kind, size, modifiedAt, createdAt }: AfcEntry, domain: string): CollectedEntry {
  const place = { domain, path: `Media${path}` }
  return { ...place, kind, size, modifiedAt, createdAt, id: contentId(place), target: null, key: null, reference: path }
}

const sameContent = (one: CollectedEntry, other: CollectedEntry) =>
  one.size === other.size && one.modifiedAt?.getTime() === other.modifiedAt?.getTime()

/** Ids of the owner's applications; none where the device does not tell. */
async function installedApps(lockdown: Lockdown): Promise<string[]> {
  try {
    const stream = await lockdown.service('com.apple.mobile.installation_proxy')
    try {
      return await browse(new StreamReader(stream, lockdown.mux.silenceMs))
    } finally {
      stream.destroy()
    }
  } catch (thrown) {
    if (thrown instanceof DeviceError && ['no-service', 'locked', 'refused'].includes(thrown.code)) return []
    throw thrown
  }
}

// A device holds some hundred applications; an answer without end is garbage.
const MOST_ANSWERS = 10_000

async function browse(reader: StreamReader): Promise<string[]> {
  const attributes = { ApplicationType: 'User', ReturnAttributes: ['CFBundleIdentifier'] }
  await send(reader.stream, xmlFrame({ Command: 'Browse', ClientOptions: attributes }))
  const ids: string[] = []
  for (let answers = 0; answers < MOST_ANSWERS; answers++) {
    const { Status, CurrentList } = await needDict(reader)
    for (const app of Array.isArray(CurrentList) ? CurrentList : [])
      ids.push(...[textOf((app as { CFBundleIdentifier?: unknown } | null)?.CFBundleIdentifier) ?? []].flat())
    if (Status !== 'BrowsingApplications') return ids
  }
  throw new DeviceError('garbled')
}
