import { mkdir, rename, rm, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { BackupBuilder } from '../backup/builder.js'
import { Random } from '../random.js'
import { type Clip, liveHalf, makeClips } from './clips.js'
import { MessageDatabase, type WrittenMessage } from './messages.js'
import { OWNER } from './people.js'
import { makePictures, type Picture, photoLibrary } from './photos.js'
import { addStores, type WrittenStores } from './stores/index.js'

export const DEMO_UDID = '00008110-0007A5C22E8B401E'
export const DEMO_TAKEN_AT = new Date('2026-11-14T20:15:00Z')
/** Of the encrypted backup: the lost conversation was still there. */
export const EARLIER_TAKEN_AT = new Date('2026-10-20T21:40:00Z')
export const DEMO_PASSWORD = 'seven strings'
const EARLIER_FOLDER = `${DEMO_UDID}-20261020-214000`

const OLD_UDID = '5c1d9a4f0be27386a1c05e7d9f24b83a6e0d7713'
const OLD_TAKEN_AT = new Date('2015-08-30T18:05:00Z')
const OLD_FOLDER = 'old phone (attic disk)'

export interface DemoSize {
  messages: number
  lostMessages: number
  pictures: number
  /** Items of each of the smaller stores, more or less. */
  items: number
  /** Rounds of the encrypted backup's first key derivation. Real devices ask for ten million, some ten seconds. */
  rounds: number
  /**
   * What newer systems put only into backups with a password stands in those without one too: for tests that read
   * every kind from one backup.
   */
  protectedToo?: boolean
}

export const FULL_DEMO: DemoSize = { messages: 2200, lostMessages: 240, pictures: 300, items: 90, rounds: 4_000_000 }

/** How much the demo's sources hold, by the name given on the command line. */
export const DEMO_SIZES = {
  /** Made in seconds, for tests that take every kind of source from its reading to a package. */
  small: { messages: 700, lostMessages: 160, pictures: 60, items: 40, rounds: 20_000 },
  full: FULL_DEMO,
  /** A phone that was used much: for looking at how the application bears it. */
  large: { ...FULL_DEMO, messages: 40_000, lostMessages: 2_000, pictures: 5_000, items: 400 },
} satisfies Record<string, DemoSize>

/** A size by its name. @throws Error where there is none of that name */
export function demoSize(name = 'full'): DemoSize {
  const size: DemoSize | undefined = Object.hasOwn(DEMO_SIZES, name)
    ? DEMO_SIZES[name as keyof typeof DEMO_SIZES]
    : undefined
  if (!size) throw new Error(`the demo has no size "${name}": ${Object.keys(DEMO_SIZES).join(', ')}`)
  return size
}

/** What was written into a backup, for checks of what is read back. */
export interface BackupTruth {
  folder: string
  messages: WrittenMessage[]
  pictures: Omit<Picture, 'jpeg' | 'original'>[]
  stores: WrittenStores
}

/** What was written, backup by backup. Kept beside the backups, never read by the product. */
export interface DemoTruth {
  plain: BackupTruth
  encrypted: BackupTruth
  legacy: BackupTruth
}

/**
 * Builds the demo's backups under `folder`. The folder takes its name only when all of it is there, so a build that
 * was cut short is never taken for a whole one.
 */
export async function buildDemo(folder: string, size: DemoSize = FULL_DEMO): Promise<DemoTruth> {
  const parts = `${folder}.part`
  await rm(parts, { recursive: true, force: true })
  await mkdir(join(parts, 'Backup'), { recursive: true })
  const pictures = await makePhonePictures(folder, size)
  const truth: DemoTruth = {
    plain: await buildPlain(parts, pictures, size),
    encrypted: await buildEncrypted(parts, pictures, size),
    legacy: await buildLegacy(parts, size),
  }
  await writeFile(join(parts, 'truth.json'), JSON.stringify(truth))
  await rm(folder, { recursive: true, force: true })
  await rename(parts, folder)
  return truth
}

/** The phone's pictures, the same every time; kept beside `folder` for the parts of the demo that come after. */
export const makePhonePictures = (folder: string, size: DemoSize) =>
  makePictures(size.pictures, DEMO_TAKEN_AT, 20261114, join(dirname(folder), 'pictures'))

export const PHONE = {
  name: `${OWNER.split(' ')[0]}’s phone`,
  productType: 'iPhone14,5',
  osVersion: '17.6.1',
  udid: DEMO_UDID,
}

const hanging = (pictures: readonly Picture[]) => pictures.slice(-4).map((picture) => picture.jpeg)

/** The newest state: conversations and pictures are lost, some are in their bins. */
async function buildPlain(parts: string, pictures: readonly Picture[], size: DemoSize): Promise<BackupTruth> {
  const backup = new BackupBuilder(join(parts, 'Backup', DEMO_UDID), { ...PHONE, takenAt: DEMO_TAKEN_AT })
  await backup.addStray('interrupted run', (pictures[0] as Picture).jpeg)
  return fillNewest(backup, parts, pictures, size, size.protectedToo)
}

/**
 * Fills a backup with the phone's newest state and finishes it. A backup without a password holds no calls, web history
 * and networks, unless `protectedToo`: one in the cloud does.
 */
export async function fillNewest(
  backup: BackupBuilder,
  parts: string,
  pictures: readonly Picture[],
  size: DemoSize,
  protectedToo = false,
): Promise<BackupTruth> {
  const talk = writtenTalk(join(parts, 'sms.db'), pictures, size)
  talk.loseSome()
  const stores = await addStores(backup, parts, { items: size.items, pictures: hanging(pictures), protectedToo })
  return finished(backup, parts, talk, pictures, DEMO_UDID, stores)
}

/** Three weeks before, with its password: nothing was lost yet. */
async function buildEncrypted(parts: string, all: readonly Picture[], size: DemoSize): Promise<BackupTruth> {
  const device = { ...PHONE, osVersion: '17.6', takenAt: EARLIER_TAKEN_AT }
  const lock = { password: DEMO_PASSWORD, firstRounds: size.rounds }
  return fillEarlier(new BackupBuilder(join(parts, 'Backup', EARLIER_FOLDER), device, { lock }), parts, all, size)
}

/** Fills a backup with the phone's state on the backup's day, before anything was lost, and finishes it. */
export async function fillEarlier(
  backup: BackupBuilder,
  parts: string,
  all: readonly Picture[],
  size: DemoSize,
): Promise<BackupTruth> {
  const { takenAt } = backup.device
  const pictures = all
    .filter((picture) => picture.takenAt < takenAt)
    .map((picture): Picture => ({ ...picture, fate: 'live' }))
  const talk = writtenTalk(join(parts, 'sms.db'), all, size)
  talk.goBackTo(takenAt)
  await addStores(backup, parts, {
    items: size.items,
    laterLostBy: DEMO_TAKEN_AT,
    pictures: hanging(all),
    protectedToo: true,
  })
  return finished(backup, parts, talk, pictures, EARLIER_FOLDER, {})
}

/** Of many years ago, in the layout of then. */
async function buildLegacy(parts: string, size: DemoSize): Promise<BackupTruth> {
  const device = {
    name: 'Odile’s old phone',
    productType: 'iPhone5,2',
    osVersion: '8.4.1',
    udid: OLD_UDID,
    takenAt: OLD_TAKEN_AT,
  }
  const backup = new BackupBuilder(join(parts, 'Backup', OLD_FOLDER), device, { layout: 'legacy' })
  const pictures = await makePictures(Math.min(20, size.pictures), OLD_TAKEN_AT, 2015)
  const talk = new MessageDatabase(join(parts, 'sms.db'), new Random(15), OLD_TAKEN_AT)
  talk.write(Math.round(size.messages / 6), 12, [(pictures[0] as Picture).jpeg])
  talk.loseSome()
  const stores = await addStores(backup, parts, {
    items: Math.round(size.items / 3),
    legacy: true,
    pictures: [],
    protectedToo: true,
  })
  return finished(backup, parts, talk, pictures, OLD_FOLDER, stores)
}

/** The same talk every time, so that two backups of the phone agree on it. */
function writtenTalk(file: string, pictures: readonly Picture[], size: DemoSize): MessageDatabase {
  const talk = new MessageDatabase(file, new Random(7), DEMO_TAKEN_AT)
  talk.write(
    size.messages,
    size.lostMessages,
    pictures.slice(0, 12).map((picture) => picture.jpeg),
  )
  talk.editSome()
  return talk
}

/** Adds films, and the moving halves of two pictures. Gives the films that there were on the backup's day. */
async function addFilms(backup: BackupBuilder, pictures: readonly Picture[]): Promise<Clip[]> {
  const { takenAt } = backup.device
  // The phones of the legacy layout are from before.
  if (backup.shape.layout === 'legacy') return []
  const folder = 'Media/DCIM/100APPLE'
  const clips = (await makeClips(DEMO_TAKEN_AT, 1900))
    .filter((clip) => clip.takenAt < takenAt)
    .map((clip): Clip => (takenAt < DEMO_TAKEN_AT ? { ...clip, fate: 'live' } : clip))
  for (const { name, fate, content, takenAt: at } of clips)
    if (fate !== 'deleted') await backup.addFile('CameraRollDomain', `${folder}/${name}`, content, at)
  for (const [i, { name, takenAt: at }] of pictures
    .filter(({ fate }) => fate === 'live')
    .slice(-2)
    .entries())
    await backup.addFile(
      'CameraRollDomain',
      `${folder}/${name.replace(/(JPG|HEIC)$/, 'MOV')}`,
      await liveHalf(i, at),
      at,
    )
  return clips
}

/** Adds pictures, their library and messages, and writes the manifest. */
export async function finished(
  backup: BackupBuilder,
  parts: string,
  talk: MessageDatabase,
  pictures: readonly Picture[],
  folder: string,
  stores: WrittenStores,
): Promise<BackupTruth> {
  const { takenAt } = backup.device
  for (const picture of pictures)
    if (picture.fate !== 'deleted')
      await backup.addFile('CameraRollDomain', `Media/DCIM/100APPLE/${picture.name}`, picture.original, picture.takenAt)
  const clips = await addFilms(backup, pictures)
  const library = await photoLibrary(join(parts, 'photos.db'), pictures, clips, takenAt)
  await backup.addFile('CameraRollDomain', 'Media/PhotoData/Photos.sqlite', library)
  await backup.addFile('HomeDomain', 'Library/SMS/sms.db', await talk.finish())
  for (const file of talk.files) await backup.addFile('MediaDomain', file.path, file.content)
  await backup.finish()
  return {
    folder,
    messages: talk.written,
    pictures: pictures.map(({ jpeg: _, original: __, ...rest }) => rest),
    stores,
  }
}
