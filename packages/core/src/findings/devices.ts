import type { SourceKind } from '../backup/types.js'

/** A source as far as it tells which device it is of. */
export interface SourceIdentity {
  id: number
  kind: SourceKind
  uniqueId: string | null
  serialNumber: string | null
  /** The key of the device that the technician named; null: nobody said. */
  said: string | null
}

/** What a job knows of its devices, beside its sources. */
export interface DevicesSaid {
  /** Key of the device of the brief; null: nobody said. */
  brief: string | null
  /** Keys of devices that are somebody else's. */
  others: readonly string[]
}
export const NOTHING_SAID: DevicesSaid = { brief: null, others: [] }

/** The key of everything that belongs to the account rather than to a device. */
export const ACCOUNT = 'account'

/** Unique ids are written with capitals and hyphens in some places, and without in others. */
const plain = (id: string) => id.toLowerCase().replaceAll('-', '')

/** The key of a device by its unique id. */
export const deviceKeyOf = (uniqueId: string): string => `id:${plain(uniqueId)}`

/**
 * Which device each source is of (docs/truth.md, rule 1): by unique id, else by serial number, else a device of its own
 * until the technician says which. Two sources that share either are of one device. Keys depend on the sources alone,
 * not on the order in which they were added.
 */
export function deviceKeys(sources: readonly SourceIdentity[]): Map<number, string> {
  const bySerial = new Map<string, string>()
  for (const { uniqueId, serialNumber } of sources)
    if (uniqueId && serialNumber) {
      const key = deviceKeyOf(uniqueId)
      const known = bySerial.get(plain(serialNumber))
      if (known === undefined || key < known) bySerial.set(plain(serialNumber), key)
    }
  return new Map(sources.map((source) => [source.id, source.said ?? ownKey(source, bySerial)]))
}

function ownKey({ id, kind, uniqueId, serialNumber }: SourceIdentity, bySerial: ReadonlyMap<string, string>): string {
  if (kind === 'cloud-library') return ACCOUNT
  const serial = serialNumber && plain(serialNumber)
  if (serial && bySerial.has(serial)) return bySerial.get(serial) as string
  if (uniqueId) return deviceKeyOf(uniqueId)
  return serial ? `serial:${serial}` : `own:${id}`
}

/** A device of a job. */
export interface JobDevice {
  key: string
  /** What its newest source calls it. */
  name: string
  productType: string | null
  role: 'brief' | 'owner' | 'other' | 'account'
  sourceIds: number[]
}

/** A source with what its device is shown by. */
export interface NamedSource extends SourceIdentity {
  name: string
  productType: string | null
  takenAt: number | null
}

/**
 * The devices of a job, that of the brief first. Where nobody said which it is, it is one that the brief names, else
 * that of the source that was added first.
 */
export function devicesOf(
  sources: readonly NamedSource[],
  said: DevicesSaid,
  named: string,
): { devices: JobDevice[]; keys: Map<number, string> } {
  const keys = deviceKeys(sources)
  const groups = new Map<string, NamedSource[]>()
  for (const source of [...sources].sort((a, b) => a.id - b.id)) {
    const key = keys.get(source.id) as string
    groups.set(key, [...(groups.get(key) ?? []), source])
  }
  const brief = briefDevice(groups, said, named)
  const devices = [...groups].map(([key, own]): JobDevice => {
    const newest = own.reduce((best, one) => ((one.takenAt ?? 0) > (best.takenAt ?? 0) ? one : best))
    return {
      key,
      name: newest.name,
      productType: newest.productType,
      role: roleOf(key, brief, said),
      sourceIds: own.map(({ id }) => id),
    }
  })
  return { devices: devices.sort((a, b) => ORDER[a.role] - ORDER[b.role]), keys }
}

const ORDER: Record<JobDevice['role'], number> = { brief: 0, owner: 1, other: 2, account: 3 }

function roleOf(key: string, brief: string | null, { others }: DevicesSaid): JobDevice['role'] {
  if (key === ACCOUNT) return 'account'
  if (key === brief) return 'brief'
  return others.includes(key) ? 'other' : 'owner'
}

function briefDevice(
  groups: ReadonlyMap<string, readonly NamedSource[]>,
  { brief, others }: DevicesSaid,
  named: string,
): string | null {
  if (brief !== null && groups.has(brief)) return brief
  const candidates = [...groups].filter(([key]) => key !== ACCOUNT && !others.includes(key))
  const words = named.trim().toLowerCase()
  const byName = words === '' ? undefined : candidates.find(([, own]) => own.some((one) => isNamed(one.name, words)))
  // What cannot be told apart from a stranger's is the device of the brief only where nothing better is there.
  const known = candidates.find(([key]) => !key.startsWith('own:'))
  return (byName ?? known ?? candidates[0])?.[0] ?? null
}

/** True where the words in which a brief names its device hold the name of one. */
export const isNamed = (name: string, words: string) => name !== '' && words.includes(name.toLowerCase())
