import { cpSync, renameSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { fileIdOf } from '@lumbrin/core/backup/manifest-values'
import { BackupBuilder } from '@lumbrin/standins/backup/builder'
import type { Random } from '@lumbrin/standins/random'
import { BEGIN, DAY, LIFE_CATEGORIES, type Life, type LifeCategory, type LifeItem, SPAN, stateOn } from './life.js'
import { contentOf, contentPlace, storeOn } from './stores.js'

/** What a captured state does not hold as it should. */
export type Harm = 'damaged' | 'absent' | 'missing' | 'empty'

/** A state of a device as it was captured into a backup, with everything that is wrong with it. */
export interface Capture {
  id: number
  folder: string
  device: number
  day: number
  kind: 'plain' | 'encrypted' | 'legacy' | 'device' | 'cloud-backup' | 'library' | 'archives'
  password: string | null
  harm: Map<LifeCategory, Harm>
  /** Tokens of items whose content is listed, and not there. */
  withoutContent: Set<string>
  /** The same backup, copied into another folder, as the capture with this id. */
  copyOf: number | null
}

export const takenAt = ({ day }: { day: number }): Date => new Date(BEGIN + day * DAY + 20 * 3_600_000)

/** Captures some states of the devices of a life, in the order of their days. */
export async function captureAll(random: Random, life: Life, folder: string): Promise<Capture[]> {
  const captures: Capture[] = []
  const days = Array.from({ length: random.int(2, 4) }, () => random.int(20, SPAN)).sort((a, b) => a - b)
  for (const [i, day] of [...new Set(days)].entries()) {
    const device = random.chance(0.7) ? 0 : random.int(0, life.devices.length - 1)
    const kind = random.pick(['plain', 'plain', 'encrypted', 'legacy'] as const)
    captures.push(await capture(random, life, join(folder, `capture-${i}`), { id: i, device, day, kind }))
  }
  if (!captures.some(({ device }) => device === 0))
    captures.push(
      await capture(random, life, join(folder, 'capture-x'), {
        id: captures.length,
        device: 0,
        day: SPAN,
        kind: 'plain',
      }),
    )
  // Somebody copied a backup into another folder: it is the same state, seen twice.
  const original = random.pick(captures)
  if (random.chance(0.25)) {
    const copy = { ...original, id: captures.length, folder: `${original.folder}-copy`, copyOf: original.id }
    cpSync(original.folder, copy.folder, { recursive: true, preserveTimestamps: true })
    captures.push(copy)
  }
  if (random.chance(0.3))
    captures.push(
      await capture(random, life, join(folder, 'attached'), {
        id: captures.length,
        device: 0,
        day: SPAN,
        kind: 'device',
      }),
    )
  await captureCloud(random, life, folder, captures)
  return captures
}

/** What the owner's account in the cloud may have: a backup of a device, its archives, and the library of pictures. */
async function captureCloud(random: Random, life: Life, folder: string, captures: Capture[]): Promise<void> {
  const add = async (name: string, kind: Capture['kind'], device: number, day: number) => {
    captures.push(await capture(random, life, join(folder, name), { id: captures.length, device, day, kind }))
  }
  if (random.chance(0.25)) {
    await add(
      'cloud',
      'cloud-backup',
      random.chance(0.7) ? 0 : random.int(0, life.devices.length - 1),
      random.int(20, SPAN),
    )
    const backup = captures.at(-1) as Capture
    // Nobody can say beforehand what the account kept of a damaged store.
    const known = ARCHIVED.every((category) => backup.harm.get(category) !== 'damaged')
    if (known && random.chance(0.5))
      captures.push({ ...backup, id: captures.length, kind: 'archives', harm: archived(backup) })
  }
  if (random.chance(0.2)) await add('library', 'library', 0, SPAN)
}

/** What the archives of a backup lack: all kinds that are not archived; of a store that was not there, its items. */
const archived = ({ harm }: Capture): Capture['harm'] =>
  new Map(
    LIFE_CATEGORIES.flatMap((category): [LifeCategory, Harm][] => {
      if (!ARCHIVED.includes(category)) return [[category, 'absent']]
      return harm.has(category) ? [[category, 'empty']] : []
    }),
  )

const ARCHIVED: readonly LifeCategory[] = ['contacts', 'events', 'bookmarks']

/** True for what belongs to the account, and is of no device. */
export const isOfAccount = ({ kind }: Capture): boolean => kind === 'library' || kind === 'archives'

/** What a capture of this kind never has: newer systems put calls into backups with a password, and into the cloud's. */
export function leavesOut(kind: Capture['kind'], category: LifeCategory): boolean {
  if (kind === 'library') return category !== 'photos'
  if (kind === 'archives') return !ARCHIVED.includes(category)
  return category === 'calls' && (kind === 'plain' || kind === 'device')
}

const HARMS: Record<Capture['kind'], readonly Harm[]> = {
  plain: ['damaged', 'absent', 'missing', 'empty'],
  encrypted: ['damaged', 'absent', 'missing', 'empty'],
  legacy: ['damaged', 'absent', 'missing', 'empty'],
  device: [],
  // What is sent there is whole, or was not sent.
  'cloud-backup': ['damaged', 'absent', 'empty'],
  library: [],
  archives: [],
}

export async function capture(
  random: Random,
  life: Life,
  folder: string,
  { id, device, day, kind }: Pick<Capture, 'id' | 'device' | 'day' | 'kind'>,
): Promise<Capture> {
  const harm = new Map<LifeCategory, Harm>()
  for (const category of LIFE_CATEGORIES)
    if (leavesOut(kind, category)) harm.set(category, 'absent')
    else if (HARMS[kind].length > 0 && random.chance(0.12)) harm.set(category, random.pick(HARMS[kind]))
  const password = kind === 'encrypted' ? `seed ${life.seed}` : null
  const { udid, name } = life.devices[device] as Life['devices'][number]
  const identity = {
    udid,
    name,
    productType: 'iPhone14,5',
    osVersion: kind === 'legacy' ? '8.4' : '17.6',
    takenAt: takenAt({ day }),
  }
  const shape = {
    ...(kind === 'legacy' ? { layout: 'legacy' as const } : {}),
    ...(password ? { lock: { password, firstRounds: 10 } } : {}),
  }
  const backup = new BackupBuilder(folder, identity, shape)
  const gone: string[] = []
  for (const category of LIFE_CATEGORIES) {
    const wrong = harm.get(category)
    if (wrong === 'absent') continue
    const { domain, path, bytes } = storeOn(life, category, device, day, wrong === 'empty')
    // Cut behind the first page: the header is right, and pages that it names are not there.
    await backup.addFile(domain, path, wrong === 'damaged' ? bytes.subarray(0, 4096) : bytes)
    if (wrong === 'missing') gone.push(fileIdOf(domain, path))
  }
  const withoutContent = new Set<string>()
  for (const item of life.items) {
    const place = contentPlace(item)
    // A library without rows names no files either: pictures that it does not know would be shown as files.
    if (!place || !stateOn(item, device, day) || harm.get(item.category) === 'empty') continue
    await backup.addFile(place.domain, place.path, contentOf(item))
    if (!HARMS[kind].includes('missing') || !random.chance(0.15)) continue
    withoutContent.add(item.token)
    gone.push(fileIdOf(place.domain, place.path))
  }
  await backup.finish()
  for (const file of gone)
    rmSync(kind === 'legacy' ? join(folder, file) : join(folder, file.slice(0, 2), file), { force: true })
  return { id, folder, device, day, kind, password, harm, withoutContent, copyOf: null }
}

/** Takes a capture away, as a disk that is unplugged; gives what brings it back. */
export function takeAway({ folder }: Capture): () => void {
  renameSync(folder, `${folder}.away`)
  return () => renameSync(`${folder}.away`, folder)
}

/** True where a capture holds the content of an item whose row it shows. */
export const holdsContent = (one: Capture, item: LifeItem): boolean =>
  contentPlace(item) !== undefined &&
  stateOn(item, one.device, one.day) !== undefined &&
  !one.withoutContent.has(item.token)
