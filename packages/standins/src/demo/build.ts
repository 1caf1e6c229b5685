import { mkdir, rename, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { BackupBuilder } from '../backup/builder.js'
import { Random } from '../random.js'
import { MessageDatabase, type WrittenMessage } from './messages.js'
import { OWNER } from './people.js'
import { makePictures, type Picture, photoLibrary } from './photos.js'

export const DEMO_UDID = '00008110-0007A5C22E8B401E'
export const DEMO_TAKEN_AT = new Date('2026-11-14T20:15:00Z')

export interface DemoSize {
  messages: number
  lostMessages: number
  pictures: number
}

export const FULL_DEMO: DemoSize = { messages: 2200, lostMessages: 240, pictures: 300 }

/** What was written, for checks of what is read back. Kept beside the backups, never read by the product. */
export interface DemoTruth {
  messages: WrittenMessage[]
  pictures: Omit<Picture, 'jpeg'>[]
}

/**
 * Builds the demo's backups under `folder`. The folder takes its name only when all of it is there, so a build that
 * was cut short is never taken for a whole one.
 */
export async function buildDemo(folder: string, size: DemoSize = FULL_DEMO): Promise<DemoTruth> {
  const parts = `${folder}.part`
  await rm(parts, { recursive: true, force: true })
  const backupFolder = join(parts, 'Backup', DEMO_UDID)
  await mkdir(backupFolder, { recursive: true })
  const truth = await buildPlainBackup(backupFolder, parts, size)
  await writeFile(join(parts, 'truth.json'), JSON.stringify(truth))
  await rm(folder, { recursive: true, force: true })
  await rename(parts, folder)
  return truth
}

async function buildPlainBackup(folder: string, scratch: string, size: DemoSize): Promise<DemoTruth> {
  const backup = new BackupBuilder(folder, {
    name: `${OWNER.split(' ')[0]}’s phone`,
    productType: 'iPhone14,5',
    osVersion: '17.6.1',
    udid: DEMO_UDID,
    takenAt: DEMO_TAKEN_AT,
  })
  const pictures = await makePictures(size.pictures, DEMO_TAKEN_AT, 20261114)
  for (const picture of pictures)
    if (picture.fate !== 'deleted')
      await backup.addFile('CameraRollDomain', `Media/DCIM/100APPLE/${picture.name}`, picture.jpeg, picture.takenAt)
  await backup.addFile(
    'CameraRollDomain',
    'Media/PhotoData/Photos.sqlite',
    await photoLibrary(join(scratch, 'photos.db'), pictures, DEMO_TAKEN_AT),
  )
  const talk = new MessageDatabase(join(scratch, 'sms.db'), new Random(7), DEMO_TAKEN_AT)
  talk.write(
    size.messages,
    size.lostMessages,
    pictures.slice(0, 12).map((picture) => picture.jpeg),
  )
  talk.loseSome()
  await backup.addFile('HomeDomain', 'Library/SMS/sms.db', await talk.finish())
  for (const file of talk.files) await backup.addFile('MediaDomain', file.path, file.content)
  await backup.finish()
  return { messages: talk.written, pictures: pictures.map(({ jpeg: _, ...rest }) => rest) }
}

const [, script, target] = process.argv
if (script && target && import.meta.url === pathToFileURL(script).href) await buildDemo(target)
