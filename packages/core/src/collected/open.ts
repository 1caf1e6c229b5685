import { readdir, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { readBackupInfo } from '../backup/info.js'
import { openBackup, type Unlocking, unlockBackup } from '../backup/open.js'
import type { SourceInfo, SourceTree } from '../backup/types.js'
import type { ClassKeys } from '../backup/unlock.js'
import { isCopy } from '../copies/place.js'
import { copyInfo, openCopy } from '../copies/tree.js'
import { type Report, SourceError } from '../io/errors.js'
import { Collection, collectionInfo, isCollection } from './collection.js'
import { ImageTree, readImageInfo } from './image.js'
import { JoinedTree } from './joined.js'
import { CollectedTree, type Fetch } from './tree.js'

/** What a folder of any kind, or a raw image, says about itself. @throws SourceError */
export async function readSourceInfo(folder: string, report: Report): Promise<SourceInfo> {
  const image = await readImageInfo(folder)
  if (image) return image
  if (await isCopy(folder)) return copyInfo(folder)
  if (!(await isCollection(folder))) return readBackupInfo(folder, report)
  const info = collectionInfo(folder, await new Collection(folder).header())
  const backup = await backupIn(folder)
  return { ...info, encrypted: backup ? (await readBackupInfo(backup, () => {})).encrypted : false }
}

/**
 * Opens a source of any kind that lies on this computer. With `fetch`, contents that a collection only lists are fetched
 * when they are opened.
 * @throws SourceError when nothing of it can be read, or when its password is missing or wrong
 */
export async function openSource(
  folder: string,
  report: Report,
  unlocking: Unlocking = {},
  fetch?: Fetch,
): Promise<SourceTree> {
  const image = await readImageInfo(folder)
  if (image) return new ImageTree(image, (await stat(folder)).size)
  if (await isCopy(folder)) return openCopy(folder, report)
  if (!(await isCollection(folder))) return openBackup(folder, report, unlocking)
  const info = await readSourceInfo(folder, report)
  const collection = new Collection(folder)
  const { entries, broken } = await collection.listing()
  if (broken > 0)
    report({
      code: 'listing-damaged',
      message: `${broken} lines of the listing are damaged; their files are not shown.`,
    })
  const listed = new CollectedTree(info, collection, entries, fetch)
  const backup = await backupIn(folder)
  if (!backup) return listed
  // What the file service lists can still be fetched: a backup that lists it as well was sent without its content.
  return new JoinedTree(info, [listed, await openBackup(backup, report, unlocking)])
}

/** The keys of a locked source. @throws SourceError */
export async function unlockSource(folder: string, unlocking: Unlocking, report: Report): Promise<ClassKeys> {
  return unlockBackup((await backupIn(folder)) ?? folder, unlocking, report)
}

/** Where a device's backup is received, within its collection. */
export const backupFolder = (folder: string) => join(folder, 'backup')

/** The backup that was received from a device, once its manifest is there. */
async function backupIn(folder: string): Promise<string | undefined> {
  for (const name of await readdir(backupFolder(folder)).catch(() => [])) {
    const backup = join(backupFolder(folder), name)
    const whole = await readBackupInfo(backup, () => {}).catch((thrown: unknown) => {
      if (thrown instanceof SourceError) return undefined
      throw thrown
    })
    if (whole) return backup
  }
  return undefined
}
