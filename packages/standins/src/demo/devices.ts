import { mkdir, rename, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { BackupBuilder, type DeviceIdentity } from '../backup/builder.js'
import { Random } from '../random.js'
import { type DemoSize, fillNewest, finished, makePhonePictures, PHONE } from './build.js'
import { MessageDatabase } from './messages.js'
import { makePictures, type Picture } from './photos.js'
import { addStores } from './stores/index.js'

/** When the demo's phone was put on the bench: nothing was done with it since its last backup but small talk. */
const ON_THE_BENCH = new Date('2026-11-25T08:30:00Z')

/** What is on the demo's devices, each as a backup of the modern layout below `folder`. The phone holds what its backups do. */
export async function buildDeviceStores(
  folder: string,
  devices: readonly Pick<DeviceIdentity, 'udid' | 'name' | 'productType' | 'osVersion'>[],
  size: DemoSize,
): Promise<void> {
  const parts = `${folder}.part`
  await rm(parts, { recursive: true, force: true })
  await mkdir(parts, { recursive: true })
  for (const [i, { udid, name, productType, osVersion }] of devices.entries()) {
    const device = { udid, name, productType, osVersion, takenAt: ON_THE_BENCH }
    const backup = new BackupBuilder(join(parts, udid), device)
    await (udid === PHONE.udid ? fillPhone(backup, parts, size) : fillOther(backup, parts, i))
  }
  await rm(folder, { recursive: true, force: true })
  await rename(parts, folder)
}

async function fillPhone(backup: BackupBuilder, parts: string, size: DemoSize): Promise<void> {
  await fillNewest(backup, parts, await makePhonePictures(parts, size), size)
}

const ITEMS = 12

/** A little of everything, another life on each. */
async function fillOther(backup: BackupBuilder, parts: string, seed: number): Promise<void> {
  const pictures = await makePictures(ITEMS, ON_THE_BENCH, 4000 + seed)
  const talk = new MessageDatabase(join(parts, 'sms.db'), new Random(100 + seed), ON_THE_BENCH)
  talk.write(5 * ITEMS, ITEMS, [(pictures[0] as Picture).jpeg])
  const stores = await addStores(backup, parts, { items: ITEMS, pictures: [], protectedToo: false })
  await finished(backup, parts, talk, pictures, backup.device.udid, stores)
}
