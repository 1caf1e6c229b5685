import type { SourceInfo } from '../backup/types.js'
import { CATEGORY_IDS, type CategoryId, definitionOf } from './registry.js'

/** From this version of the system on, some categories are only in backups with a password (common practice). */
const ONLY_ENCRYPTED_SINCE = 13

/** False: a source of this kind never has the category, so that its absence says nothing. */
export function mayHold(
  { kind, encrypted, osVersion, only }: Pick<SourceInfo, 'kind' | 'encrypted' | 'osVersion' | 'only'>,
  category: CategoryId,
): boolean {
  if (only) return only.includes(category)
  if (encrypted) return true
  const { needsPassword } = definitionOf(category)
  if (needsPassword === 'always') return false
  // The cloud keeps with keys of its own what a backup on a computer keeps only with a password.
  if (kind === 'cloud-backup') return true
  const major = Number.parseInt(osVersion ?? '', 10)
  return !(needsPassword === 'since 13' && major >= ONLY_ENCRYPTED_SINCE)
}

/**
 * What a copy of a source can hold whose contents lie open in it: of a backup with a password what that holds, but for saved
 * passwords, which the device alone or the backup's own keys open. Undefined: it follows from the kind.
 */
export const heldByCopyOf = (info: SourceInfo): readonly string[] | undefined =>
  info.encrypted ? CATEGORY_IDS.filter((id) => id !== 'credentials' && mayHold(info, id)) : info.only

/** Why a source of this kind has none of a category, where it never could. */
export function whyNot(category: CategoryId): string {
  switch (definitionOf(category).needsPassword) {
    case 'always':
      return 'in a backup without a password they are locked to the device itself. Only one that was made with a password holds them in a form that can be opened.'
    case 'since 13':
      return `since version ${ONLY_ENCRYPTED_SINCE} of the system only backups with a password hold them. That this one has none says nothing about the device.`
    default:
      return 'none of the sources can hold them: a cloud library gives pictures, files of its bin, and archives of contacts, calendars, reminders and bookmarks; a copy of a device’s pictures holds its media alone.'
  }
}
